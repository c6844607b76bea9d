"""The venue's store of cables and what goes with them as CSV, one sort of piece a row."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from fence.core.model.errors import FenceError
from fence.core.model.line import Cable, Plug
from fence.core.model.stock import MOST_ITEMS, Item, Kind
from fence.formats.csv_cells import as_text
from fence.formats.csv_table import at_line, read_table

COLUMNS = ("what", "count", "length", "cable", "plug_from", "plug_to", "price", "note")
PLUGS = [str(plug) for plug in Plug if plug is not Plug.WIRELESS]
CABLES = [str(cable) for cable in Cable if cable is not Cable.WIRELESS]


def write_stock_csv(stock: Sequence[Item]) -> str:
    """The stock as CSV text, lines ending in CR LF."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for item in stock:
        length = "" if item.length is None else f"{item.length:g}"
        price = "" if item.price is None else f"{item.price:g}"
        of_cable = (
            (item.cable, *item.plugs) if item.kind in (Kind.CABLE, Kind.ADAPTER) else ("", "", "")
        )
        writer.writerow([item.kind, item.count, length, *of_cable, price, as_text(item.note)])
    return out.getvalue()


def read_stock_csv(data: bytes) -> tuple[Item, ...]:
    """Read a stock; ``FileError`` says in which line something is not understood, and what is
    accepted.

    Without ``what`` a row with a length is a cable. Cables are DMX cables with 5-pin plugs where
    nothing else is said.
    """
    found = []
    for row in read_table(data, COLUMNS, ("count",), MOST_ITEMS):
        length = row.number("length")
        kind = Kind(row.choice("what", list(Kind), Kind.CABLE if length is not None else ""))
        plugs = (
            Plug(row.choice("plug_from", PLUGS, Plug.FIVE)),
            Plug(row.choice("plug_to", PLUGS, row["plug_from"] or Plug.FIVE)),
        )
        cable = Cable(row.choice("cable", CABLES, Cable.DMX))
        try:
            found.append(
                Item(
                    kind,
                    row.whole("count") or 0,
                    cable,
                    plugs,
                    length,
                    row.number("price"),
                    row["note"],
                )
            )
        except FenceError as error:
            raise at_line(row, error) from None
    return tuple(found)
