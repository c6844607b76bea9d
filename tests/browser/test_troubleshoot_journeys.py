"""Hidden faults are found by answering only what the page asks, from what a practice rig does whose
faults are on its command line and unseen by the page; on a desk's screen and on a phone, and by two
people at once."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By

from fence.core.model.show import Show
from fence.core.simulation.faults import Fault, read_fault
from fence.core.simulation.practice import PracticeRig
from fence.core.troubleshooting.evidence import Answer, Check, Kind
from fence.core.troubleshooting.foresight import Foresight
from fence.core.troubleshooting.inspecting import inspected
from fence.core.troubleshooting.told import cause_words
from fence.demo import clean_show
from tests.browser.conftest import Page
from tests.browser.hidden_rig import HiddenRig, Told, hidden_rig, send_there
from tests.browser.screens import DESK, PHONE

pytestmark = pytest.mark.browser

PATH = "/shows/1/prove/troubleshoot"
MOST = 25
ON_A_DESK = (
    "wrong-address=Fern 5:161",
    "blackout",
    "output-dead=Split 1:1",
    "off-by-one=palm dock",
)
ON_A_PHONE = (
    "deaf=Fern 5",
    "port-off=palm dock:3",
)
"""At the desk one of each place where a fault can be; those of every kind are searched for on the
pages without a browser."""


def asked(page: Page, show: Show) -> Check:
    """The check that the page asks for, as its form names it."""
    form = page.one("#next-check form[action$='/note']")
    fields = {
        one.get_attribute("name"): one.get_attribute("value")
        for one in form.find_elements(By.CSS_SELECTOR, "input[type=hidden]")
    }
    return Check(
        Kind(fields["kind"]),
        int(fields.get("fixture") or 0),
        fields.get("line") or "",
        int(fields.get("stop") or 0),
        fields.get("box") or "",
        int(fields.get("port") or 0),
    )


def reply(page: Page, show: Show, told: Told) -> None:
    """Answer as a person does: a tap, or what is read typed in."""
    said = dict(told)
    if "says" in said:
        page.type("#next-check #says", said["says"])
        if said.get("mode"):
            page.choose("#next-check #mode", said["mode"])
        page.click("#said")
    elif "another" in said:
        label = show.fixture(int(said["another"])).label
        page.choose("#next-check #other", label)
        page.click("#next-check .search-reads button")
    elif told:
        page.click(f"#answer-{told[0][0]}")
    else:
        page.click("#not-now")


def solved(page: Page, rig: HiddenRig) -> str:
    """Answer what is asked until a cause is found; its words."""
    for _ in range(MOST):
        page.wait(
            lambda: page.has(".settled") or page.has("#next-check"),
            "nothing is asked and nothing is found",
        )
        if page.has(".settled"):
            return page.text(".settled h2")
        check = asked(page, rig.show)
        if check.kind is Kind.LOOK:
            page.click("#bring")
            page.wait(lambda check=check: rig.heard(check.fixture), "its levels do not arrive")
        before = page.one("#next-check h2")
        reply(page, rig.show, rig.found(check))
        page.wait(lambda before=before: gone(before), "the answer was not taken")
    raise AssertionError("not found in time")


def gone(element: object) -> bool:
    """Whether a page has taken the place of the one that this stood on."""
    try:
        element.is_enabled()  # type: ignore[attr-defined]
    except Exception:  # the driver has several words for it
        return True
    return False


def first_sign(show: Show, faults: Sequence[Fault]) -> tuple[int, str]:
    """The first fixture at which something is not right, and what is seen there."""
    rig, foresight = PracticeRig(show, tuple(faults)), Foresight(show)
    for fixture in show.fixtures:
        if not foresight.can_look(fixture):
            continue
        (seen,) = inspected(rig, Check(Kind.LOOK, fixture.id), foresight.frames_for(fixture))
        if seen.answer is Answer.ANOTHER:
            return fixture.id, str(Answer.DARK)
        if seen.answer is not Answer.RIGHT:
            return fixture.id, str(seen.answer)
    raise AssertionError("nothing is seen of it")


def begin(page: Page, label: str, symptom: str) -> None:
    """Say what is seen at first."""
    page.open(PATH)
    page.choose("#whom", label)
    page.click(f"#symptom-{symptom}")


@pytest.mark.parametrize(
    ("metrics", "faults", "bind"),
    [(DESK, ON_A_DESK, "127.0.0.91"), (PHONE, ON_A_PHONE, "127.0.0.92")],
    ids=["desk", "phone"],
)
def test_hidden_faults_are_found(
    page: Page, tmp_path: Path, metrics: dict[str, int], faults: tuple[str, ...], bind: str
) -> None:
    """Each by answering what is asked, and nothing else."""
    show = clean_show()
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    with hidden_rig(show, bind, tmp_path, faults[0]) as rig:
        send_there(page, bind)
        for fault in faults:
            rig.hide(fault)
            hidden = read_fault(show, fault)
            fixture, symptom = first_sign(show, [hidden])
            begin(page, show.fixture(fixture).label, symptom)
            assert solved(page, rig) == cause_words(show, [hidden]), fault
            wide = page.driver.execute_script("return document.documentElement.scrollWidth")
            assert wide <= metrics["width"]
            page.click("#begin-anew")
            page.sees("put away")
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)


def test_two_people_in_one_search(page: Page) -> None:
    """What each of them notes counts for both, and nothing is lost."""
    begin(page, "Fern 5", "dark")
    page.sees("1 piece of evidence")
    first = page.driver.current_window_handle
    page.driver.switch_to.new_window("tab")
    page.open(PATH)
    page.choose("#whom", "Fern 6")
    page.click("#symptom-right")
    page.sees("2 pieces of evidence")
    page.driver.close()
    page.driver.switch_to.window(first)
    page.choose("#whom", "Lily 2")
    page.click("#symptom-right")
    page.sees("3 pieces of evidence")
    for words in ("Fern 5 was dark", "Fern 6 was right", "Lily 2 was right"):
        page.sees(words)


def test_ticked_on_the_picture(page: Page) -> None:
    """A device and all behind it are ticked by one tap; what is chosen then is said of them all,
    and each piece can be taken back."""
    page.open(PATH + "?line=2")
    page.click("[aria-label='Tick Lily 6 and all behind it']")
    page.sees("ticked on the picture", "#ticked")
    count = len(page.driver.find_elements(By.CSS_SELECTOR, ".suspicion input:checked"))
    assert count > 1
    page.click("#symptom-dark")
    page.sees(f"{count} pieces of evidence")
    page.sees("Lily 6 was dark")
    page.sees("Lily 8 was dark")
    page.click(".evidence button")
    page.sees(f"{count - 1} piece")
