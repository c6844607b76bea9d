"""What a successor needs: one PDF from the verdict to who proved what, and one ZIP with it, the
show and tables."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from fence.core.addressing.lists import ListOrder, channels_listed, in_order, listed
from fence.core.checks import RULES, Analysis, Severity
from fence.core.model.dates import written_day, written_time
from fence.core.model.line import Cable
from fence.core.model.record import Witness
from fence.core.model.show import Show
from fence.core.model.standing import standing_of
from fence.core.model.text import counted, slug
from fence.core.model.waiver import Waiver
from fence.core.model.wiring import wiring_of
from fence.core.network.card import card_of
from fence.formats.csv_cells import as_text
from fence.formats.lines_csv import write_lines_csv
from fence.formats.on_paper import Heading, Logged
from fence.formats.paper import (
    MARGIN,
    SMALL,
    TEXT,
    Paper,
    clean,
    draw_channels,
    draw_fixtures,
    draw_table,
)
from fence.formats.rig_csv import write_rig_csv
from fence.formats.show_json import write_show_json
from fence.formats.slot_csv import write_slot_csv

MOST_UNIVERSES = 64
MOST_POINTS = 40
"""Open points that the first page has room for."""
RECORD = (("Fixture", 44.0), ("Set", 101.0), ("Read back", 64.0), ("Proven", 64.0))
LINES = (("Line", 40.0), ("Device", 70.0), ("Hangs on", 70.0), ("Cable run", 93.0))
BOXES = (("Node", 50.0), ("What", 60.0), ("Value", 80.0), ("On the wire", 83.0))
KINDS = {
    Cable.DMX: "DMX cable",
    Cable.NETWORK: "network cable",
    Cable.MICROPHONE: "microphone cable",
}
LOG = (("State", 20.0), ("When", 36.0), ("Who", 40.0), ("From", 26.0), ("What, and why", 151.0))


def handover_pdf(heading: Heading, show: Show, analysis: Analysis, log: Sequence[Logged]) -> bytes:
    """One document: verdict and open points, rig by number and by position, universes, lines,
    network, who did what."""
    paper = Paper(heading, landscape=False)
    _cover(paper, show, analysis)

    def section(title: str) -> None:
        paper.heading = replace(heading, title=f"{heading.title}: {title}")

    if show.fixtures:
        section("rig by number")
        draw_fixtures(paper, listed(show, in_order(show, ListOrder.NUMBER)))
        section("rig by position")
        draw_fixtures(paper, listed(show, in_order(show, ListOrder.POSITION)))
        section("universes")
        draw_channels(
            paper, [(one, channels_listed(show, number)) for number, one in _universes(show)]
        )
    paper.turn(landscape=True)
    if show.lines:
        section("lines")
        draw_table(paper, LINES, _line_rows(show))
    if show.boxes:
        section("network, what is typed at each node")
        draw_table(paper, BOXES, _box_rows(show))
    if record := list(_record_rows(show)):
        section("who set, read and proved what")
        draw_table(paper, RECORD, record)
    if log:
        section("log, the latest first")
        draw_table(
            paper,
            LOG,
            ((str(e.state), written_time(e.at), e.who, e.origin, e.words) for e in log),
        )
    return bytes(paper.output())


def _universes(show: Show) -> list[tuple[int, str]]:
    used = sorted(
        {entry.universe for fixture in show.fixtures for entry in fixture.patch if entry.universe}
    )
    known = show.universe_by_number
    return [(n, known[n].title if n in known else f"U{n}") for n in used[:MOST_UNIVERSES]]


def _cover(paper: Paper, show: Show, analysis: Analysis) -> None:
    """The first page: the verdict, what is open, what is let stand and why."""
    paper.columns, paper.columns_at = (), ()
    paper.add_page()
    verdict, standing = analysis.verdict, standing_of(show)
    paper.set_font("Next", "B", 20)
    paper.multi_cell(paper.epw, 9, clean(show.name), new_x="LMARGIN", new_y="NEXT")
    _words(
        paper,
        f"{counted(verdict.stops, 'stop')}, {counted(verdict.cautions, 'caution')}, "
        f"{verdict.clear} clear. "
        f"{counted(len(show.fixtures), 'fixture')}: {standing.words}.",
        11,
    )
    if show.note:
        _words(paper, show.note)
    open_points = [
        finding for finding in analysis.findings if finding.severity is not Severity.NOTE
    ]
    _title(paper, "Open points" if open_points else "No open points: neither stops nor cautions")
    for finding in open_points[:MOST_POINTS]:
        _words(
            paper,
            f"{finding.severity.capitalize()}. {RULES[finding.rule].title}: {finding.message}",
        )
    if len(open_points) > MOST_POINTS:
        _words(paper, f"And {len(open_points) - MOST_POINTS} more, in the show file.")
    if analysis.waived:
        _title(paper, "Let stand")
    for finding, waiver in analysis.waived[:MOST_POINTS]:
        _words(paper, f"{finding.message} Why: {waiver.reason} ({_by(waiver.by)}{_until(waiver)})")
    _title(paper, "Before anybody climbs")
    _words(
        paper,
        "Local rules and competent or licensed people come before anything written here. Isolate "
        "power before you open "
        "or plug mains; nothing hangs without a secondary safety bond; moving heads may swing "
        "when the signal goes.",
        SMALL,
    )


def _title(paper: Paper, words: str) -> None:
    _room(paper, 14)
    paper.set_font("Next", "B", 12)
    paper.set_xy(MARGIN, paper.get_y() + 3)
    paper.cell(paper.epw, 7, words, new_x="LMARGIN", new_y="NEXT")


def _words(paper: Paper, words: str, size: float = TEXT) -> None:
    paper.set_font("Next", "", size)
    _room(paper, 16)
    paper.multi_cell(paper.epw, size / 2, clean(words), align="L", new_x="LMARGIN", new_y="NEXT")
    paper.set_y(paper.get_y() + 1)


def _room(paper: Paper, height: float) -> None:
    if paper.get_y() + height > paper.bottom:
        paper.add_page()


def _by(by: Witness) -> str:
    """Who and when, on the clock of this machine."""
    when = f", {written_time(by.at.astimezone())}" if by.at else ""
    return f"{by.who or 'nobody named'}{when}"


def _until(waiver: Waiver) -> str:
    return f", up to {written_day(waiver.until)}" if waiver.until else ""


def _line_rows(show: Show) -> Iterator[tuple[str, str, str, str]]:
    for line in show.lines:
        named = {
            stop.id: show.fixture_by_id[stop.fixture].label
            if stop.fixture in show.fixture_by_id
            else stop.label or str(stop.device or "gone")
            for stop in line.stops
        }
        carries = f"{line.name}, U{line.universe}" if line.universe else line.name
        wiring = wiring_of(line)
        left = [
            f"{named[end.id]}: {reason}"
            for end in wiring.open_ends
            if (reason := wiring.reason_for(end))
        ]
        yield carries, "", "", f"open end at {'; '.join(left)}" if left else ""
        for stop in line.stops:
            length = "" if stop.length is None else f"{stop.length:g} m "
            plugs = f", {stop.plugs[0]} to {stop.plugs[1]}" if stop.plugs else ""
            after = named[stop.after] if stop.after is not None else "the source"
            run = (
                "by wireless"
                if stop.cable is Cable.WIRELESS
                else f"{length}{KINDS[stop.cable]}{plugs}"
            )
            yield "", named[stop.id], after, run


def _box_rows(show: Show) -> Iterator[tuple[str, str, str, str]]:
    for box in show.boxes:
        card = card_of(show, box)
        yield box.name, str(box.kind), str(card.stand), card.hint
        for name, value in card.values:
            yield "", name, value, ""
        for row in card.rows:
            yield "", row.title, row.typed, row.wire


def _record_rows(show: Show) -> Iterator[tuple[str, str, str, str]]:
    for fixture in show.fixtures:
        done, read, proven = fixture.set_to, fixture.read_back, fixture.proven
        if not (done or read or proven):
            continue
        place = f"{' + '.join(map(str, done.patch))} in {done.mode}, {_by(done.by)}" if done else ""
        said = (
            f"{' and '.join('-' if n is None else str(n) for n in read.says)}, {_by(read.by)}"
            if read
            else ""
        )
        yield fixture.label, place, said, _by(proven.by) if proven else ""


def handover_zip(heading: Heading, show: Show, analysis: Analysis, log: Sequence[Logged]) -> bytes:
    """The PDF, the show file, and tables for other programs: rig, lines, universes, log, what is
    let stand."""
    name, out = slug(show.name, "show"), io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr(f"{name}.pdf", handover_pdf(heading, show, analysis, log))
        packed.writestr(f"{name}.json", write_show_json(show))
        packed.writestr("rig.csv", write_rig_csv(show))
        if show.lines:
            packed.writestr("lines.csv", write_lines_csv(show))
        for number, _ in _universes(show):
            packed.writestr(f"universe-{number}.csv", write_slot_csv(show, number))
        rows = ([e.state, f"{e.at:%Y-%m-%d %H:%M}", e.who, e.origin, e.words] for e in log)
        packed.writestr("log.csv", _table(("state", "when", "who", "from", "what"), rows))
        waived = ([f.rule, f.message, w.reason, w.by.who] for f, w in analysis.waived)
        packed.writestr("let-stand.csv", _table(("rule", "what", "why", "who"), waived))
    return out.getvalue()


def _table(head: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    writer.writerows([as_text(str(cell)) for cell in row] for row in rows)
    return out.getvalue()
