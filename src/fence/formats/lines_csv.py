"""Lines as CSV, one stop a row. What comes back is the same tree, on the fixtures of the show that
reads it."""

from __future__ import annotations

import csv
import io
from dataclasses import replace

from fence.core.edits.cabling import put_line
from fence.core.model.errors import FenceError
from fence.core.model.line import MOST_STOPS, Cable, Device, Line, Plug, Power, Source, Stop
from fence.core.model.show import Show
from fence.core.model.wiring import wiring_of
from fence.formats.csv_cells import as_text
from fence.formats.csv_table import Row, at_line, read_table
from fence.formats.errors import FileError

COLUMNS = (
    *("line", "universe", "stop", "after", "output", "what", "name", "number", "length", "cable"),
    *(
        "plug_from",
        "plug_to",
        "outputs",
        "boosted",
        "rdm",
        "link",
        "power",
        "hours",
        "sign",
        "open_end",
    ),
    *("node", "port"),
)
REQUIRED = ("line", "what")
FIXTURE = "fixture"
MOST_ROWS = 50_000
KINDS = [FIXTURE, *Device]


def write_lines_csv(show: Show) -> str:
    """All stops of all lines, lines ending in CR LF. An empty line of the show is a row without
    ``what``."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for line in show.lines:
        wiring = wiring_of(line)
        head = [as_text(line.name), line.universe or ""]
        box = show.box_by_id.get(line.source.box) if line.source else None
        start = [as_text(box.name), line.source.port] if box and line.source else ["", ""]
        for stop in line.stops:
            fixture = show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
            if stop.fixture is not None and fixture is None:
                continue
            place = [stop.id, stop.after or "", stop.output or ""]
            number = fixture.number if fixture and fixture.number is not None else ""
            who = [
                stop.device or FIXTURE,
                as_text(fixture.label if fixture else stop.label),
                number,
            ]
            run = [
                "" if stop.length is None else f"{stop.length:g}",
                stop.cable,
                *(stop.plugs or ("", "")),
            ]
            like = [
                stop.outputs or "",
                "yes" if stop.boosted else "no",
                "yes" if stop.rdm else "no",
            ]
            air = [
                as_text(stop.link),
                stop.power or "",
                f"{stop.hours:g}" if stop.hours else "",
                as_text(stop.sign),
            ]
            reason = wiring.reason_for(stop) if stop in wiring.open_ends else ""
            writer.writerow([*head, *place, *who, *run, *like, *air, as_text(reason), *start])
        if not line.stops:
            writer.writerow([*head, *[""] * (len(COLUMNS) - 5), as_text(line.open_end), *start])
    return out.getvalue()


def read_lines_csv(data: bytes, show: Show) -> Show:
    """The show with the lines of a file: those of a name that it has are replaced, the others
    added.

    ``line`` and ``what`` are enough: without ``stop`` and ``after`` each row hangs on the one
    before it. Raises ``FileError`` where a row is not understood, a fixture is not in the show, or
    a tree does not hold together.
    """
    rows: dict[str, list[Row]] = {}
    for row in read_table(data, COLUMNS, REQUIRED, MOST_ROWS):
        if not row["line"]:
            raise FileError("The name of the line is missing.", row.line)
        rows.setdefault(row["line"], []).append(row)
    if not rows:
        raise FileError(
            "The file names no line. Accepted: a first line naming columns, then a row for each "
            "stop."
        )
    named = _Named(show)
    for name, held in rows.items():
        show = put_line(show, _line(named, name, held))
    return show


class _Named:
    """The fixtures and boxes of a show by what rows call them."""

    def __init__(self, show: Show) -> None:
        self.boxes = {box.name.casefold(): box for box in show.boxes}
        self.labels: dict[str, list[tuple[int, int | None]]] = {}
        for fixture in show.fixtures:
            self.labels.setdefault(fixture.label.casefold(), []).append(
                (fixture.id, fixture.number)
            )

    def find(self, row: Row) -> int:
        """The fixture of a row: by its label, and by its number where several bear it."""
        found = self.labels.get(row["name"].casefold(), [])
        number = row.whole("number")
        if len(found) > 1 and number is not None:
            found = [entry for entry in found if entry[1] == number]
        if len(found) != 1:
            how = "Several fixtures of this show are" if found else "No fixture of this show is"
            raise FileError(f"{how} called “{row['name'][:60]}”.", row.line)
        return found[0][0]

    def start(self, row: Row) -> Source | None:
        """Where the line of a row starts; None where it does not say."""
        if not row["node"]:
            return None
        box, port = self.boxes.get(row["node"].casefold()), row.whole("port")
        if box is None or port is None or box.port(port) is None:
            place = f"{row['node'][:60]} port {row['port'][:10]}"
            raise FileError(
                f"“{place}” is not a port of this show. Use node and port of the Network step.",
                row.line,
            )
        return Source(box.id, port)


def _line(named: _Named, name: str, rows: list[Row]) -> Line:
    if len(rows) > MOST_STOPS:
        raise FileError(f"{name} has {len(rows)} stops. Use up to {MOST_STOPS}.", rows[0].line)
    stops: list[Stop] = []
    row = rows[0]
    try:
        for row in rows:
            if row["what"]:
                stops.append(
                    _stop(
                        named,
                        row,
                        stops[-1].id if stops else None,
                        max((s.id for s in stops), default=0),
                    )
                )
        opens = {row["open_end"] for row in rows}
        # said of the line as a whole, as it was written before each end had its own
        if len(opens) == 1:
            return Line(
                1, name, rows[0].whole("universe"), named.start(rows[0]), opens.pop(), tuple(stops)
            )
        reasons = [row["open_end"] for row in rows if row["what"]]
        stops = [
            replace(stop, open_end=reason) for stop, reason in zip(stops, reasons, strict=True)
        ]
        return Line(1, name, rows[0].whole("universe"), named.start(rows[0]), "", tuple(stops))
    except FenceError as error:
        raise at_line(row, error) from None


def _stop(named: _Named, row: Row, last: int | None, highest: int) -> Stop:
    what = row.choice("what", KINDS)
    number = row.whole("stop")
    after = row.whole("after") if row["after"] or number is not None else last
    plugs = None
    if row["plug_from"] or row["plug_to"]:
        words = list(Plug)
        plugs = (
            Plug(row.choice("plug_from", words, row["plug_to"])),
            Plug(row.choice("plug_to", words, row["plug_from"])),
        )
    stop = Stop(
        number if number is not None else highest + 1,
        after,
        row.whole("output"),
        named.find(row) if what == FIXTURE else None,
        None if what == FIXTURE else Device(what),
        "" if what == FIXTURE else row["name"],
        row.whole("outputs"),
        row.yes("boosted", default=True),
        row.yes("rdm", default=True),
        row["link"],
        row.number("length"),
        Cable(row.choice("cable", list(Cable), Cable.DMX)),
        plugs,
    )
    power = Power(row.choice("power", list(Power))) if row["power"] else None
    return replace(stop, power=power, hours=row.number("hours"), sign=row["sign"])
