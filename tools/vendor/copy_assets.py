"""Copy the pinned npm packages' files that Fence ships into the places that serve them.

Run by `make vendor` after `npm ci` in this folder. Everything copied is listed here, with its
licence.
"""

from __future__ import annotations

import shutil
from pathlib import Path

HERE = Path(__file__).parent
PACKAGES = HERE / "node_modules"
SHIPPED = HERE.parent.parent / "src" / "fence" / "web" / "static" / "vendor"
PAPER = HERE.parent.parent / "src" / "fence" / "formats" / "fonts"
TESTS = HERE.parent.parent / "tests" / "browser" / "vendor"

FONT = (
    "@fontsource/atkinson-hyperlegible-{family}/files/"
    "atkinson-hyperlegible-{family}-{subset}-{weight}-normal.woff2"
)
FONTS = [
    FONT.format(family=family, subset=subset, weight=weight)
    for family, weights in (("next", (400, 600)), ("mono", (400, 700)))
    for subset in ("latin", "latin-ext")
    for weight in weights
]

SHIPPED_FILES: dict[str, list[str]] = {
    "bootstrap": [
        "bootstrap/dist/css/bootstrap.min.css",
        "bootstrap/dist/js/bootstrap.bundle.min.js",
        "bootstrap/LICENSE",
    ],
    "bootstrap-icons": [
        "bootstrap-icons/LICENSE",
    ],
    "htmx": ["htmx.org/dist/htmx.min.js", "htmx.org/LICENSE"],
    "alpine": ["@alpinejs/csp/dist/cdn.min.js"],
    "fonts": [*FONTS, "@fontsource/atkinson-hyperlegible-next/LICENSE"],
}
ICONS = [
    "arrow-clockwise",
    "arrow-counterclockwise",
    "box-arrow-in-down",
    "check-lg",
    "chevron-left",
    "chevron-right",
    "copy",
    "download",
    "eye",
    "exclamation-triangle-fill",
    "gear",
    "info-circle",
    "keyboard",
    "link-45deg",
    "list-check",
    "moon-stars",
    "octagon-fill",
    "pencil",
    "person",
    "pin-angle",
    "plus-lg",
    "search",
    "sun",
    "trash",
    "wrench-adjustable",
    "x-lg",
]
PAPER_FILES = [
    "@expo-google-fonts/atkinson-hyperlegible-next/400Regular/AtkinsonHyperlegibleNext_400Regular.ttf",
    "@expo-google-fonts/atkinson-hyperlegible-next/600SemiBold/AtkinsonHyperlegibleNext_600SemiBold.ttf",
    "@expo-google-fonts/atkinson-hyperlegible-mono/700Bold/AtkinsonHyperlegibleMono_700Bold.ttf",
    "@expo-google-fonts/atkinson-hyperlegible-next/LICENSE_FONT",
    "dejavu-fonts-ttf/ttf/DejaVuSans.ttf",
    "dejavu-fonts-ttf/LICENSE",
]
"""The fonts of printed lists; the last one has the letters of other alphabets."""
TEST_FILES = ["axe-core/axe.min.js", "axe-core/LICENSE"]


def copy(names: list[str], target: Path) -> None:
    """Copy files out of node_modules into one folder, by their own names."""
    target.mkdir(parents=True, exist_ok=True)
    for name in names:
        shutil.copyfile(PACKAGES / name, target / Path(name).name)
        print(f"{target.name}/{Path(name).name}")


def sprite(names: list[str]) -> str:
    """One SVG that holds each icon as a symbol of its name."""
    symbols = []
    for name in names:
        text = (PACKAGES / "bootstrap-icons" / "icons" / f"{name}.svg").read_text()
        inner = text[text.index(">") + 1 : text.rindex("</svg>")].strip()
        symbols.append(f'<symbol id="{name}" viewBox="0 0 16 16">{inner}</symbol>')
    return '<svg xmlns="http://www.w3.org/2000/svg">\n' + "\n".join(symbols) + "\n</svg>\n"


def main() -> None:
    shutil.rmtree(SHIPPED, ignore_errors=True)
    for folder, names in SHIPPED_FILES.items():
        copy(names, SHIPPED / folder)
    (SHIPPED / "alpine" / "LICENSE").write_text((HERE / "alpine-licence.txt").read_text())
    (SHIPPED / "bootstrap-icons" / "icons.svg").write_text(sprite(ICONS))
    copy(TEST_FILES, TESTS)
    shutil.rmtree(PAPER, ignore_errors=True)
    copy(PAPER_FILES, PAPER)
    (PAPER / "LICENSE").rename(PAPER / "LICENSE_DEJAVU")


if __name__ == "__main__":
    main()
