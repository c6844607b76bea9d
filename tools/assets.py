"""Lay out the style sheets and scripts of the pages: one declaration and one statement a line.

python tools/assets.py            lays them out anew
python tools/assets.py --check    says which are not laid out so, and ends with 1
"""

from __future__ import annotations

import argparse
from pathlib import Path

import cssbeautifier
import jsbeautifier

STATIC = Path(__file__).parents[1] / "src" / "fence" / "web" / "static"
WIDTH = 120


def style_laid_out(text: str) -> str:
    """A style sheet, laid out."""
    options = cssbeautifier.default_options()
    options.indent_size = 2
    options.end_with_newline = True
    return str(cssbeautifier.beautify(text, options))


def script_laid_out(text: str) -> str:
    """A script, laid out."""
    options = jsbeautifier.default_options()
    options.indent_size = 2
    options.end_with_newline = True
    options.brace_style = "collapse,preserve-inline"
    options.operator_position = "after-newline"
    options.wrap_line_length = WIDTH
    return str(jsbeautifier.beautify(text, options))


def main() -> int:
    """Lay out, or check; 1 if the check found something."""
    parser = argparse.ArgumentParser(description="Lay out style sheets and scripts.")
    parser.add_argument("--check", action="store_true")
    check = parser.parse_args().check
    otherwise = 0
    styles = [(path, style_laid_out) for path in sorted((STATIC / "css").glob("*.css"))]
    scripts = [
        (path, script_laid_out)
        for path in [*sorted((STATIC / "js").glob("*.js")), STATIC / "worker.js"]
    ]
    for path, laid_out in styles + scripts:
        there = path.read_text(encoding="utf-8")
        wanted = laid_out(there)
        if wanted == there:
            continue
        otherwise += 1
        if check:
            print(f"{path.relative_to(STATIC)}: not laid out as tools/assets.py does")
        else:
            path.write_text(wanted, encoding="utf-8")
    return 1 if check and otherwise else 0


if __name__ == "__main__":
    raise SystemExit(main())
