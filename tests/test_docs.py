"""The maps of the house are true: every room is named, and every place that they name is there."""

from __future__ import annotations

import re
from pathlib import Path

import fence

SOURCE = Path(fence.__file__).parent
ROOT = SOURCE.parents[1]
DOCS = ROOT / "docs"


def rooms(folder: Path) -> set[str]:
    """The packages of a folder."""
    return {path.parent.name for path in folder.glob("*/__init__.py")}


def test_every_room_is_on_the_maps() -> None:
    """The rooms of the core in its own README and on the map of the house, the others on that."""
    own = (SOURCE / "core" / "README.md").read_text("utf-8")
    house = (DOCS / "architecture.md").read_text("utf-8")
    for room in rooms(SOURCE / "core"):
        assert f"| `{room}` |" in own, room
        assert f"| `core/{room}/` |" in house, room
    for room in rooms(SOURCE) - {"core", "demo"}:
        assert f"| `{room}/` |" in house, room


def test_what_to_open_is_there() -> None:
    """Every path that a page of docs names in the sources stands where it says."""
    for page in ("where-to-change-what.md",):
        for path in re.findall(r"`([\w/.]+(?:/|\.\w+))`", (DOCS / page).read_text("utf-8")):
            there = [SOURCE / path, ROOT / path, *SOURCE.rglob(path.rstrip("/"))]
            assert any(one.exists() for one in there), f"{page}: {path}"


def test_every_module_of_the_map_is_there() -> None:
    """In the table of rooms a name in code marks is a module, a package or a folder there."""
    house = (DOCS / "architecture.md").read_text("utf-8")
    for room, told in re.findall(r"^\| `([\w/]+)/` \| (.*) \|$", house, re.MULTILINE):
        for name in re.findall(r"`([\w/]+)`", told):
            folder = SOURCE / room
            places = [folder / f"{name}.py", folder / name, SOURCE / f"{name}.py", SOURCE / name]
            if not any(place.exists() for place in places):
                assert list(folder.rglob(f"{name}.py")) or name in WORDS, f"{room}: {name}"


WORDS = {"__init__", "construct", "numpy", "sacn"}
"""Names in code marks that are no modules."""
