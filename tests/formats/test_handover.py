"""Handing over: one document and one archive with everything that a successor needs."""

from __future__ import annotations

import io
import zipfile
from datetime import UTC, datetime

from pypdf import PdfReader

from fence.core import edits
from fence.core.checks import analyse
from fence.core.model.record import Witness
from fence.core.model.show import Show
from fence.demo import demo_show
from fence.formats.handover import Logged, handover_pdf, handover_zip
from fence.formats.paper import Heading
from fence.formats.rig_csv import read_rig_csv
from fence.formats.show_json import read_show_json

AT = datetime(2026, 11, 28, 18, 30, tzinfo=UTC)
HEADING = Heading("Glasshouse After Dark", "handing over", 7, AT)
LOG = [Logged(7, AT, "Ladder crew A", "Address", "Lily 3 moved. The rill needed room")]


def pages_of(document: bytes) -> list[str]:
    """The words of each page."""
    return [" ".join(page.extract_text().split()) for page in PdfReader(io.BytesIO(document)).pages]


def test_the_first_page_has_the_verdict_and_what_is_open() -> None:
    """Every stop and caution stands there in words; what is let stand stands apart, with its
    reason."""
    show = demo_show()
    clash = next(finding for finding in analyse(show).findings if finding.rule == "overlap")
    show = edits.waive(show, clash, "one fader on purpose", Witness("House crew", AT))
    analysis = analyse(show)
    first = pages_of(handover_pdf(HEADING, show, analysis, LOG))[0]
    assert f"{analysis.verdict.stops} stops, {analysis.verdict.cautions} cautions" in first
    for finding in analysis.findings:
        if finding.severity != "note":
            assert finding.message[:60] in first
    before, apart, after = first.partition("Let stand")
    assert apart
    assert "one fader on purpose (House crew" in after
    assert clash.message[:50] not in before


def test_all_that_is_planned_is_in_it() -> None:
    """Each fixture twice, each universe, line and box, the record and the log."""
    show = demo_show()
    text = " ".join(pages_of(handover_pdf(HEADING, show, analyse(show), LOG)))
    for fixture in show.fixtures:
        assert text.count(fixture.label) >= 2
    for named in (*show.lines, *show.boxes):
        assert named.name in text
    for title in (
        "rig by number",
        "rig by position",
        "universes",
        "lines",
        "what is typed at each node",
        "log",
    ):
        assert title in text
    assert "The rill needed room" in text


def test_an_empty_show_can_be_handed_over() -> None:
    """One page that says that nothing is open."""
    (page,) = pages_of(handover_pdf(HEADING, Show("Empty"), analyse(Show("Empty")), []))
    assert "No open points" in page


def test_the_archive_is_read_back() -> None:
    """The show file and the rig in it are those of the show."""
    show = demo_show()
    packed = zipfile.ZipFile(io.BytesIO(handover_zip(HEADING, show, analyse(show), LOG)))
    names = packed.namelist()
    assert {"rig.csv", "lines.csv", "log.csv", "let-stand.csv"} <= set(names)
    assert (
        read_show_json(packed.read(next(name for name in names if name.endswith(".json")))) == show
    )
    assert [row.label for row in read_rig_csv(packed.read("rig.csv")).show.fixtures] == [
        f.label for f in show.fixtures
    ]
    assert (
        packed.read("log.csv")
        .decode()
        .splitlines()[1]
        .startswith("7,2026-11-28 18:30,Ladder crew A,Address")
    )
    assert len(pages_of(packed.read(next(name for name in names if name.endswith(".pdf"))))) > 5
