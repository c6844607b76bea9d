"""Write docs/show.schema.json from the types that the show file is read into."""

from __future__ import annotations

from pathlib import Path

from fence.formats.show_json import schema_text

if __name__ == "__main__":
    target = Path(__file__).parent.parent / "docs" / "show.schema.json"
    target.write_text(schema_text(), encoding="utf-8")
    print(target)
