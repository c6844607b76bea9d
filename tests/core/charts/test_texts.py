"""Texts as manuals have them: how much of each file is read right, and that what is wrong is
marked."""

from __future__ import annotations

import pytest

from tests.core.charts.scoring import told, totals


@pytest.mark.parametrize(
    "name", ["worked.txt", "more.txt", "further.txt", "last.txt", "latest.txt", "final.txt"]
)
def test_texts_that_the_reader_was_worked_with(
    name: str, capsys: pytest.CaptureFixture[str]
) -> None:
    """Modes 97 %, channels 98 %, ranges 95 %, fine bytes 97 %; nothing wrong is left unmarked."""
    found = totals(name)
    with capsys.disabled():
        print("\n" + told(name, found))
    assert found["modes"] >= 0.97 * found["all modes"]
    assert found["channels"] >= 0.98 * found["all channels"]
    assert found["ranges"] >= 0.95 * found["all ranges"]
    assert found["fine"] >= 0.97 * found["all fine"]
    assert found["wrong unwarned"] == 0


def test_texts_that_were_kept_apart(capsys: pytest.CaptureFixture[str]) -> None:
    """Texts that were written before the reader and first read when it was done: they are to stay
    as they came out."""
    found = totals("kept.txt")
    with capsys.disabled():
        print("\n" + told("kept.txt", found))
    assert found["modes"] >= 0.95 * found["all modes"]
    assert found["channels"] >= 0.97 * found["all channels"]
    assert found["ranges"] >= 0.90 * found["all ranges"]
    assert found["fine"] >= 0.95 * found["all fine"]
    assert found["wrong unwarned"] <= 0.01 * found["all channels"]
