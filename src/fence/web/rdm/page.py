"""The pages of who answers: rows beside the plan, where can be asked, what is chosen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC

from flask import request, url_for

from fence.core.model.address import MAX_UNIVERSE
from fence.core.model.box import BoxKind, Use
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.network import number_on, said_by
from fence.core.model.record import is_identity
from fence.core.model.show import Show
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.device_matching import Match, Pair, Sure, match
from fence.core.rdm.rig_from_devices import grown, spares_of
from fence.core.rdm.setting import Wish, slots_of_others
from fence.store.answers import Answers
from fence.store.shows import SavedShow
from fence.web.frame import Frame
from fence.web.network.look import likely_bind
from fence.web.pages import pages, who, works
from fence.web.prove.sending import rigs
from fence.web.rdm.forms import RdmStep
from fence.web.showing import Showing
from fence.wire.rdm_ports import Place
from fence.work.practice_rigs import Practice

ANSWERS = {
    Sure.CERTAIN: ("certain", "proven"),
    Sure.LIKELY: ("likely", "set"),
    Sure.GUESS: ("a guess", "to-set"),
    Sure.ANY: ("any of several", "to-set"),
}
"""How sure a pair is, in words and as a tag."""


@dataclass(frozen=True, slots=True)
class Row:
    """A device beside its fixture, None for one that is not planned. ``spares`` are places that it
    could take."""

    said: DeviceInfo
    fixture: Fixture | None = None
    sure: Sure | None = None
    why: str = ""
    differs: tuple[str, ...] = ()
    grown: bool = False
    spares: tuple[Fixture, ...] = ()

    @property
    def name(self) -> str:
        """Its identity as it stands in forms."""
        return str(self.said.identity)

    @property
    def title(self) -> str:
        """What it is called here."""
        return self.fixture.label if self.fixture else self.said.label or self.said.title


@dataclass(frozen=True, slots=True)
class Look:
    """Who answered, beside the plan."""

    answers: Answers
    match: Match
    rows: tuple[Row, ...]
    strange: tuple[Row, ...]

    @property
    def differing(self) -> int:
        """Devices that are not as planned."""
        return sum(bool(row.differs) for row in self.rows)

    @property
    def unsure(self) -> int:
        """Pairs that somebody should look at first."""
        return sum(row.sure in (Sure.GUESS, Sure.ANY) for row in self.rows)


def answers_of(show_id: int) -> Answers | None:
    """Who answered last."""
    return pages().answers.of(show_id)


def look_at(show: Show, answers: Answers) -> Look:
    """Who answered, beside the plan as it is now: those that differ first, then in the order of the
    plan."""
    found = match(show, answers.said, told=told_in(show, answers), asked=answers.asked or None)
    rows = [_row(show, pair) for pair in found.pairs]
    spares = spares_of(show, found)
    strange = [Row(one, spares=spares.get(str(one.identity), ())) for one in found.strange]
    rows.sort(key=lambda row: not row.differs)
    return Look(answers, found, tuple(rows), tuple(strange))


def told_in(show: Show, answers: Answers) -> dict[str, int]:
    """The pairs that somebody made, as far as they stand in the show: an undo takes one back."""
    kept = {}
    for name, fixture_id in answers.told.items():
        fixture = show.fixture_by_id.get(fixture_id)
        by_hand = fixture is not None and bool(fixture.serial) and not is_identity(fixture.serial)
        if fixture is not None and (fixture.serial == name or by_hand):
            kept[name] = fixture_id
    return kept


def _row(show: Show, pair: Pair) -> Row:
    return Row(pair.said, pair.fixture, pair.sure, pair.why, pair.differs, grown(show, pair))


@dataclass(frozen=True, slots=True)
class WouldSet:
    """A device that would be set: whose it is, its identity, and what would change at it."""

    title: str
    identity: str
    changes: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmSet(Showing):
    """What is shown by ``rdm/set.html``: who would be set, and what would change at each. It is
    sent to ``action`` then, with all that was ``asked``."""

    template = "rdm/set.html"
    frame: Frame
    saved: SavedShow
    rows: list[WouldSet]
    asked: list[tuple[str, str]]
    action: str
    back: str


def asked_again() -> list[tuple[str, str]]:
    """The fields of the form that was sent, for the form that says yes to it."""
    return [
        (name, value)
        for name, value in request.form.items(multi=True)
        if name not in ("csrf_token", "seen")
    ]


@dataclass(frozen=True, slots=True)
class Somewhere:
    """A place that can be asked: a box of the plan, or the practice rig; ``universes`` are those of
    its ports."""

    key: str
    title: str
    ip: str
    places: tuple[Place, ...]

    @property
    def universes(self) -> tuple[int, ...]:
        """The universes of its ports, in order."""
        return tuple(
            sorted({place.universe for place in self.places if place.universe is not None})
        )


def somewheres(saved: SavedShow) -> list[Somewhere]:
    """Where a show can be asked: its boxes with an address and ports, and its practice rig where
    that runs."""
    found = []
    for box in saved.show.boxes:
        places = []
        for port in box.outputs:
            if port.universe is None or port.use is not Use.OUT:
                continue
            told = said_by(box, port)
            number = told if told is not None else number_on(box, port.universe)
            if 0 <= number <= 32_767:
                places.append(Place(box.ip, number, port.universe))
        if box.kind is BoxKind.NODE and box.ip and places:
            found.append(Somewhere(f"box-{box.id}", box.name, box.ip, tuple(places)))
    if (practice := rigs().of(saved)) is not None:
        found.append(practice_place(saved.show, practice))
    return found


def practice_place(show: Show, practice: Practice) -> Somewhere:
    """The practice rig as a place to ask: it has a port for every universe, counted as the show's
    boxes count."""
    boxes = [box for box in show.boxes if box.protocol == "artnet"]
    first = boxes[0].counts_from if boxes else 0
    universes = [u for u in show.universe_numbers if u <= min(MAX_UNIVERSE, 32_000)]
    places = tuple(Place(practice.bind, u - 1 + first, u) for u in universes)
    return Somewhere("practice", "the practice rig", practice.bind, places)


def bind_for(saved: SavedShow, chosen: Sequence[Somewhere]) -> str:
    """The address of this machine to ask from: the practice rig is asked from loopback."""
    form = RdmStep.sent()
    if all(one.ip.startswith("127.") for one in chosen):
        return "127.0.0.1"
    return form.bind.data or likely_bind(saved.show)


def when_words(answers: Answers) -> str:
    """When it was asked, on the clock of this machine."""
    return f"{answers.at.replace(tzinfo=UTC).astimezone():%H:%M}" if answers.at else ""


def names_of(look: Look) -> dict[str, tuple[int, str]]:
    """Which fixtures the devices are taken to be, by identity: ids and labels."""
    return {
        row.name: (row.fixture.id, row.fixture.label)
        for row in look.rows
        if row.fixture is not None
    }


def tabs(show_id: int) -> list[tuple[str, str]]:
    """The pages of talking with fixtures."""
    return [
        ("Discovery", url_for("rdm.index", show_id=show_id)),
        ("Rig from RDM", url_for("speak.index", show_id=show_id)),
        ("Hold", url_for("hold.index", show_id=show_id)),
    ]


def look_now(saved: SavedShow) -> Look:
    """Who answered; ``EditError`` where nobody has asked yet."""
    answers = answers_of(saved.id)
    if answers is None:
        raise EditError("Nobody has asked yet who is there: ask first.")
    return look_at(saved.show, answers)


def row_of(look: Look, name: str) -> Row:
    found = next((row for row in (*look.rows, *look.strange) if row.name == name), None)
    if found is None:
        raise EditError("That device is not among those that answered last: ask once more.")
    return found


def begin(saved: SavedShow, look: Look, wishes: dict[str, Wish], *, by_hand: bool = False) -> None:
    """Begin to set devices as wished. ``by_hand``: whatever stands there already, two may listen to
    one slot."""
    names = names_of(look)
    fixed = {} if by_hand else slots_of_others(saved.show, look.match.pairs)
    shares = {
        row.said.identity: row.fixture.share
        for row in look.rows
        if row.fixture and row.fixture.share
    }
    if by_hand:
        shares = {one.identity: "by hand" for one in look.answers.said}
    works().put(saved.key, saved.id, look.answers, wishes, names, fixed, shares=shares, who=who())
