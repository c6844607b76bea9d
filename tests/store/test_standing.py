"""How fixtures stand after anything that people do, held against a naive reading of the log."""

from __future__ import annotations

import json
import random
from collections import Counter
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import select

from fence.core import edits
from fence.core.edits.arriving import take_over
from fence.core.model.address import Address
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.record import How, Prep, Witness
from fence.core.model.show import Show
from fence.core.model.standing import Standing, State, standing_of, state_of
from fence.formats.show_json import read_show_json, write_show_json
from fence.store.database import reading
from fence.store.shows import ShowStore, StaleShow
from fence.store.tables import LogRow

TYPE = Profile("type", "Trowel", "T", (Mode("small", (Part(4),)), Mode("large", (Part(9),))))
SPLIT = Profile("split", "Trowel", "S", (Mode("two", (Part(1), Part(4))), Mode("one", (Part(5),))))
PARTS = {("type", "small"): 1, ("type", "large"): 1, ("split", "two"): 2, ("split", "one"): 1}


def start() -> Show:
    """Six fixtures of two types, one of them without an address."""
    show = edits.add_fixtures(
        Show("S"), edits.AddRun(TYPE, "small", 4, "A 1", None, "Here", 1, Address(1, 1))
    )
    show = edits.add_fixtures(
        show, edits.AddRun(SPLIT, "two", 2, "B 1", None, "There", 1, Address(1, 100))
    )
    return edits.unplace(show, [4])


def naive_state(fixture: dict[str, Any]) -> str:
    """The state of a fixture as the log's JSON says it, by comparing lists of text."""
    plan = [fixture["mode"], *(f"{p['universe']}.{p['slot']}" for p in fixture["patch"])]
    if any("None" in entry for entry in plan[1:]):
        return "no address"
    facts = []
    for name, rank in (("set_to", 0), ("proven", 1), ("read_back", 2)):
        if fixture[name]:
            facts.append((fixture[name]["by"]["at"], rank, name, fixture[name]))
    if not facts:
        return "to set"
    *older, (_, _, name, last) = sorted(facts, key=lambda fact: fact[:2])
    if name != "read_back":
        now = [last["mode"], *(f"{p['universe']}.{p['slot']}" for p in last["patch"])]
        same, was_right = now == plan, True
    else:
        base = older[-1][3] if older else None
        base = next((fact[3] for fact in reversed(older) if fact[2] != "read_back"), base)
        mode = last["mode"] or (base["mode"] if base else plan[0])
        says = list(last["says"])
        count = len(base["patch"]) if base else len(says)
        says = (says + [None] * count)[:count]
        says = [
            (base["patch"][i]["slot"] if base else None) if s is None else s
            for i, s in enumerate(says)
        ]
        wanted = [p["slot"] for p in fixture["patch"]]
        says = (says + [None] * len(wanted))[: len(wanted)]
        same = mode == plan[0] and all(
            s is None or s == w for s, w in zip(says, wanted, strict=True)
        )
        then = [p["slot"] for p in last["planned"]]
        was_right = last["mode"] in ("", last["planned_mode"]) and all(
            s is None or s == w for s, w in zip(last["says"], then, strict=True)
        )
    if not same:
        return "re-set" if was_right else "differs"
    if not fixture["proven"]:
        return "set"
    proof = fixture["proven"]
    holds = [proof["mode"], *(f"{p['universe']}.{p['slot']}" for p in proof["patch"])] == plan
    later = fixture["set_to"] and fixture["set_to"]["by"]["at"] > proof["by"]["at"]
    return "proven" if holds and not later else "prove again"


def from_the_log(store: ShowStore, show_id: int, first: Show) -> dict[int, str]:
    """The states that follow from replaying every entry of the log over the show it began with."""
    held = {f["id"]: f for f in json.loads(write_show_json(first))["show"]["fixtures"]}
    with reading(store.engine) as session:
        rows = session.scalars(
            select(LogRow).where(LogRow.show_id == show_id).order_by(LogRow.id)
        ).all()
    for row in rows:
        for change in json.loads(row.difference)["fixtures"]:
            if change["after"] is None:
                del held[change["before"]["id"]]
            else:
                held[change["after"]["id"]] = change["after"]
    return {number: naive_state(fixture) for number, fixture in held.items()}


def some_step(rng: random.Random, show: Show, by: Witness) -> Show:
    """Any edit of the plan or any mark, with made-up values."""
    ids = [fixture.id for fixture in show.fixtures]
    one = rng.choice(ids)
    fixture = show.fixture(one)
    part = rng.randrange(len(fixture.patch))
    steps = (
        lambda: edits.mark_set(show, rng.sample(ids, rng.randint(1, len(ids))), by),
        lambda: edits.mark_set_to(show, one, "small", (Patch(1, rng.randint(1, 300)),), by),
        lambda: edits.mark_unset(show, [one]),
        lambda: edits.read_back(show, one, fixture.patch[part].slot or 7, part=part, by=by),
        lambda: edits.read_back(
            show, one, rng.randint(0, 300), part=part, by=by, mode=rng.choice(["", fixture.mode])
        ),
        lambda: edits.mark_proven(show, [one], by),
        lambda: edits.mark_unproven(show, [one]),
        lambda: edits.forget_reading(show, [one]),
        lambda: edits.tick(show, [one], rng.choice(list(Prep)), done=rng.random() < 0.7),
        lambda: edits.place(
            show, one, Address(rng.choice((1, 1, 2)), rng.randint(1, 300)), part=part
        ),
        lambda: edits.change_mode(
            show, [one], rng.choice(show.profile_by_id[fixture.profile].modes).name
        ),
        lambda: edits.unplace(show, [one]),
        lambda: edits.plan_as_read(show, one, rng.randint(1, 300), part=part),
        lambda: take_over(show, edits.place(show, one, Address(1, rng.randint(1, 300)))),
    )
    return rng.choice(steps)()


@pytest.mark.parametrize("seed", range(30))
def test_states_are_what_the_log_says(store: ShowStore, seed: int) -> None:
    """After any sequence of edits, marks, undo, redo and imports the states are those of a naive
    replay."""
    rng = random.Random(seed)
    first = start()
    saved = store.create(first, who="T")
    at = datetime(2026, 2, 14, 18, tzinfo=UTC)
    met: Counter[State] = Counter()
    for _ in range(40):
        at += timedelta(seconds=rng.randint(1, 90))
        with suppress(FenceError):
            if (chance := rng.random()) < 0.12:
                saved = store.undo(saved.id, revision=saved.revision, who="T")
            elif chance < 0.2:
                saved = store.redo(saved.id, revision=saved.revision, who="T")
            else:
                saved = store.save(saved, some_step(rng, saved.show, Witness("T", at)), who="T")
        met.update(state_of(saved.show, fixture) for fixture in saved.show.fixtures)
    fresh = ShowStore(store.engine).get(saved.id).show
    assert fresh == saved.show
    assert read_show_json(write_show_json(fresh).encode()) == fresh
    states = {fixture.id: str(state_of(fresh, fixture)) for fixture in fresh.fixtures}
    assert states == from_the_log(store, saved.id, first)
    assert standing_of(fresh) == Standing(Counter(State(state) for state in states.values()))
    assert len(met) >= 3


def test_two_phones_never_stand_in_each_others_way(store: ShowStore) -> None:
    """Marks on two fixtures join, a mark and a move of one fixture as well: it was set before the
    plan changed."""
    saved = store.create(start(), who="T")
    by = Witness("Ladder", datetime(2026, 2, 14, 18, tzinfo=UTC))
    store.save(saved, edits.place(saved.show, 1, Address(1, 300)), who="Planner")
    store.save(saved, edits.mark_set(saved.show, [1], by), who="Ladder")
    store.save(saved, edits.mark_set(saved.show, [2], replace(by, who="Ground")), who="Ground")
    done = store.save(saved, edits.tick(saved.show, [3], Prep.LABEL), who="Ground").show
    assert [str(state_of(done, f)) for f in done.fixtures[:3]] == ["re-set", "set", "to set"]
    assert done.fixture(1).patch == (Patch(1, 300),)
    with pytest.raises(StaleShow, match="changed meanwhile"):
        store.save(
            saved, edits.mark_set_to(saved.show, 2, "large", (Patch(1, 77),), by), who="Late"
        )


def test_earlier_plans_come_from_the_log(store: ShowStore) -> None:
    """The newest first, each once, with the moment until when they held."""
    saved = store.create(start(), who="T")
    for slot in (200, 210, 200, 220):
        saved = store.save(saved, edits.place(saved.show, 1, Address(1, slot)), who="T")
    saved = store.save(saved, edits.mark_set(saved.show, [1]), who="T")
    plans = store.earlier_plans(saved.id, 1)
    assert [plan.patch[0].slot for plan in plans] == [200, 210, 1]
    assert all(plan.mode == "small" for plan in plans)
    assert plans[0].until >= plans[1].until
    assert store.earlier_plans(saved.id, 2) == []


def test_a_record_of_old_has_no_time() -> None:
    """What was set before times were kept is older than anything that is read."""
    show = edits.mark_set(start(), [1])
    assert state_of(show, show.fixture(1)) is State.SET
    later = edits.read_back(
        show, 1, 99, by=Witness("T", datetime(2026, 2, 14, tzinfo=UTC), How.SEEN)
    )
    assert state_of(later, later.fixture(1)) is State.DIFFERS


def test_a_fixture_of_the_walk_is_a_fixture(store: ShowStore) -> None:
    """Facts survive the database and a copy of the show."""
    show = edits.set_serial(edits.set_turned(start(), [1], turned=True), 1, "SN 7")
    saved = store.create(
        edits.mark_proven(show, [1], Witness("T", datetime(2026, 2, 14, tzinfo=UTC))), who="T"
    )
    held: Fixture = ShowStore(store.engine).get(store.copy(saved.id, who="T").id).show.fixture(1)
    assert held == saved.show.fixture(1)
