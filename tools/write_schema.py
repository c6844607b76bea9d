"""Write the JSON Schemas in docs from the types that the files are read into."""

from __future__ import annotations

from pathlib import Path

from fence.formats.chart_files import charts_schema
from fence.formats.show_json import show_schema
from fence.formats.troubleshooting import troubleshooting_schema

SCHEMAS = {
    "show": show_schema(),
    "charts": charts_schema(),
    "troubleshoot": troubleshooting_schema(),
}
DOCS = Path(__file__).parent.parent / "docs"

if __name__ == "__main__":
    for name, text in SCHEMAS.items():
        target = DOCS / f"{name}.schema.json"
        target.write_text(text, encoding="utf-8")
        print(target)
