"""Figures of the sources: sizes, columns, complexity. ``make lint`` fails where one is beyond its
limit.

python tools/figures.py
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
WEB = ROOT / "src" / "fence" / "web"
COMPLEXITY = 12
"""Branches of a function, as ruff counts them (C901)."""
RUFF = (sys.executable, "-m", "ruff", "check")
AS_JSON = ("--output-format", "json")
LEAST = "lint.mccabe.max-complexity=1"
SAID = re.compile(r"`\w+` is too complex \((?P<branches>\d+) > \d+\)")


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of source: where it is, how many columns and lines it may have."""

    name: str
    paths: tuple[Path, ...]
    columns: int
    lines: int

    def figures(self) -> Figures:
        """What it is like."""
        texts = {
            path: PRAGMA.sub("", path.read_text(encoding="utf-8")).splitlines()
            for path in self.paths
        }
        widths = sorted(len(line) for lines in texts.values() for line in lines)
        wide = [
            f"{path.relative_to(ROOT)}:{number}: {len(line)} columns"
            for path, lines in texts.items()
            for number, line in enumerate(lines, 1)
            if len(line) > self.columns
        ]
        long = [
            f"{path.relative_to(ROOT)}: {len(lines)} lines"
            for path, lines in texts.items()
            if len(lines) > self.lines
        ]
        at = int(0.95 * len(widths))
        return Figures(
            len(texts),
            len(widths),
            widths[at],
            widths[-1],
            max(map(len, texts.values())),
            wide,
            long,
        )


@dataclass(frozen=True, slots=True)
class Figures:
    """Files, lines, columns of the 95th percentile, the longest line, the longest file; what is
    beyond the limits."""

    files: int
    lines: int
    usual: int
    widest: int
    longest: int
    wide: list[str]
    long: list[str]


def _under(folder: Path, pattern: str) -> tuple[Path, ...]:
    return tuple(sorted(path for path in folder.rglob(pattern) if "vendor" not in path.parts))


def _python(*folders: str) -> tuple[Path, ...]:
    found = (path for folder in folders for path in _under(ROOT / folder, "*.py"))
    return tuple(path for path in found if not any(path.match(one) for one in LEFT))


LEFT = ("core/charts/*", "charts/rows/*", "migrations/versions/*")
"""What is left as it is: the reader of charts and its texts, migrations that are out."""
PRAGMA = re.compile(r"  # (?:type: ignore|noqa)\b.*")
KINDS = (
    Kind("templates", _under(WEB / "templates", "*.html"), 120, 450),
    Kind("styles", _under(WEB / "static" / "css", "*.css"), 120, 800),
    Kind("scripts", _under(WEB / "static", "*.js"), 120, 200),
    Kind("Python, src", _python("src"), 100, 750),
    Kind("Python, tests", _python("tests"), 100, 1000),
    Kind("Python, tools", _python("tools", "bench"), 100, 1000),
)


def complexities() -> list[int]:
    """The complexity of every function under src that has any, the greatest first."""
    told = subprocess.run(
        [*RUFF, "--isolated", "--select", "C901", "--config", LEAST, *AS_JSON, "src"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    found = (SAID.search(one["message"]) for one in json.loads(told.stdout))
    return sorted((int(one["branches"]) for one in found if one), reverse=True)


def _say(rows: Iterable[tuple[object, ...]]) -> None:
    for row in rows:
        print(f"{row[0]:<14}" + "".join(f"{cell:>10}" for cell in row[1:]))


def main() -> int:
    """Print the figures; 1 if one is beyond its limit."""
    _say([("", "files", "lines", "95 %", "widest", "longest")])
    beyond: list[str] = []
    for kind in KINDS:
        it = kind.figures()
        _say([(kind.name, it.files, it.lines, it.usual, it.widest, it.longest)])
        beyond += it.wide + it.long
    branches = complexities()
    over = sum(one > COMPLEXITY for one in branches)
    print(
        f"complexity: {len(branches)} functions with branches, the greatest {branches[0]}, {over} "
        f"over {COMPLEXITY}"
    )
    for one in beyond:
        print(one, file=sys.stderr)
    return 1 if beyond else 0


if __name__ == "__main__":
    raise SystemExit(main())
