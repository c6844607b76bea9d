"""Core values to table rows and back. ``write_difference`` touches only the rows that differ."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import Table, bindparam, delete, insert, select, update
from sqlalchemy.orm import Session

from fence.core.edits.difference import Change, Difference
from fence.core.model.box import Box
from fence.core.model.day import Day
from fence.core.model.desk import Desk, Scale, TellTale
from fence.core.model.fixture import Fixture
from fence.core.model.ground import NO_GROUND, Ground
from fence.core.model.line import Line
from fence.core.model.needs import Need
from fence.core.model.net import NO_NET, Net
from fence.core.model.patch import Patch
from fence.core.model.profile import Function, Profile
from fence.core.model.record import Prep, Proof, ReadBack, SetTo, Sign, Tick
from fence.core.model.scene import InScene, Place
from fence.core.model.show import Position, Show, Universe
from fence.core.model.stock import Item
from fence.core.model.waiver import Waiver
from fence.store.tables import (
    Base,
    BoxRow,
    FixtureRow,
    LineRow,
    PatchRow,
    PositionRow,
    ProfileRow,
    ShowRow,
    UniverseRow,
)

PROFILE = TypeAdapter(Profile)
DIFFERENCE = TypeAdapter(Difference)
NEEDS = TypeAdapter(tuple[Need, ...])
SET_TO = TypeAdapter(SetTo)
SIGN = TypeAdapter(Sign)
PLACE = TypeAdapter(Place)
SCENE = TypeAdapter(InScene)
READ_BACK = TypeAdapter(ReadBack)
PROOF = TypeAdapter(Proof)
LINE = TypeAdapter(Line)
BOX = TypeAdapter(Box)
WAIVERS = TypeAdapter(tuple[Waiver, ...])
TICKS = TypeAdapter(tuple[Tick, ...])
GROUND = TypeAdapter(Ground)
STOCK = TypeAdapter(tuple[Item, ...])
DAY = TypeAdapter(Day)
NET = TypeAdapter(Net)

_TABLES: dict[type[Base], Table] = {
    row: Base.metadata.tables[row.__tablename__]
    for row in (BoxRow, FixtureRow, LineRow, PatchRow, PositionRow, ProfileRow, UniverseRow)
}


def load_show(session: Session, row: ShowRow) -> Show:
    """The show whose heading is ``row``, read from its rows."""
    patches: dict[int, list[Patch]] = {}
    found = select(PatchRow.fixture_id, PatchRow.universe, PatchRow.slot).where(
        PatchRow.show_id == row.id
    )
    for fixture_id, universe, slot in session.execute(
        found.order_by(PatchRow.fixture_id, PatchRow.part)
    ):
        patches.setdefault(fixture_id, []).append(Patch(universe, slot))
    fixtures = tuple(
        Fixture(
            f.id,
            f.label,
            f.profile,
            f.mode,
            f.number,
            f.position,
            tuple(patches[f.id]),
            f.pinned,
            f.share,
            f.note,
            SET_TO.validate_json(f.set_to) if f.set_to else None,
            READ_BACK.validate_json(f.read_back) if f.read_back else None,
            PROOF.validate_json(f.proven) if f.proven else None,
            TICKS.validate_json(f.ticked) if f.ticked != "[]" else (),
            f.serial,
            f.turned,
            f.upright,
            SIGN.validate_json(f.sign) if f.sign else None,
            PLACE.validate_json(f.hangs_at) if f.hangs_at else None,
            SCENE.validate_json(f.scene) if f.scene else None,
        )
        for f in session.execute(
            select(*_TABLES[FixtureRow].c)
            .where(FixtureRow.show_id == row.id)
            .order_by(FixtureRow.place)
        )
    )
    profiles = session.scalars(
        select(ProfileRow.document).where(ProfileRow.show_id == row.id).order_by(ProfileRow.place)
    )
    universes = session.scalars(
        select(UniverseRow).where(UniverseRow.show_id == row.id).order_by(UniverseRow.number)
    )
    positions = session.scalars(
        select(PositionRow).where(PositionRow.show_id == row.id).order_by(PositionRow.place)
    )
    lines = session.scalars(
        select(LineRow.document).where(LineRow.show_id == row.id).order_by(LineRow.place)
    )
    boxes = session.scalars(
        select(BoxRow.document).where(BoxRow.show_id == row.id).order_by(BoxRow.place)
    )
    return Show(
        name=row.name,
        fixtures=fixtures,
        profiles=tuple(PROFILE.validate_json(document) for document in profiles),
        universes=tuple(Universe(u.number, u.name, tuple(u.reserved)) for u in universes),
        positions=tuple(Position(p.name, p.hard, p.height, p.spacing) for p in positions),
        desk=Desk(
            row.desk_name,
            row.desk_universes,
            row.desk_page,
            row.desk_buttons,
            row.desk_highest,
            tuple(Function(word) for word in row.desk_layout),
        ),
        next_id=row.next_fixture_id,
        note=row.note,
        needs=NEEDS.validate_json(row.needs),
        tell_tale=TellTale(row.tell_tale_slot, Scale(row.tell_tale_scale or Scale.PERCENT))
        if row.tell_tale_slot
        else None,
        walk=tuple(row.walk),
        skipped=tuple(Prep(step) for step in row.skipped),
        lines=tuple(LINE.validate_json(document) for document in lines),
        boxes=tuple(BOX.validate_json(document) for document in boxes),
        ground=GROUND.validate_json(row.ground) if row.ground else NO_GROUND,
        stock=STOCK.validate_json(row.stock),
        day=DAY.validate_json(row.day) if row.day else None,
        net=NET.validate_json(row.net) if row.net else NO_NET,
        waivers=WAIVERS.validate_json(row.waivers),
    )


def heading_values(show: Show) -> dict[str, Any]:
    """The columns of a show's heading."""
    return {
        "name": show.name,
        "desk_name": show.desk.name,
        "desk_universes": show.desk.universes,
        "desk_page": show.desk.page,
        "desk_buttons": show.desk.buttons,
        "desk_highest": show.desk.highest,
        "desk_layout": [str(function) for function in show.desk.layout],
        "next_fixture_id": show.next_id,
        "note": show.note,
        "needs": NEEDS.dump_json(show.needs).decode(),
        "tell_tale_slot": show.tell_tale.slot if show.tell_tale else None,
        "tell_tale_scale": str(show.tell_tale.scale) if show.tell_tale else None,
        "walk": list(show.walk),
        "skipped": [str(step) for step in show.skipped],
        "ground": GROUND.dump_json(show.ground).decode() if show.ground != NO_GROUND else None,
        "stock": STOCK.dump_json(show.stock).decode(),
        "day": DAY.dump_json(show.day).decode() if show.day else None,
        "net": NET.dump_json(show.net).decode() if show.net != NO_NET else None,
        "waivers": WAIVERS.dump_json(show.waivers).decode(),
    }


def write_difference(session: Session, show_id: int, found: Difference, after: Show) -> None:
    """Write what differs. ``after`` gives the order of the lists where it has changed."""
    _write(
        session,
        show_id,
        UniverseRow,
        found.universes,
        lambda u: {"number": u.number},
        _universe_values,
    )
    _write(
        session, show_id, PositionRow, found.positions, lambda p: {"name": p.name}, _position_values
    )
    _write(session, show_id, ProfileRow, found.profiles, lambda p: {"id": p.id}, _profile_values)
    _write(session, show_id, LineRow, found.lines, lambda line: {"id": line.id}, _line_values)
    _write(session, show_id, BoxRow, found.boxes, lambda box: {"id": box.id}, _box_values)
    _write(session, show_id, FixtureRow, found.fixtures, lambda f: {"id": f.id}, _fixture_values)
    _write_patches(session, show_id, found.fixtures)
    _write_places(session, show_id, found, after)


def _write(
    session: Session,
    show_id: int,
    row: type[Base],
    changes: Iterable[Change[Any]],
    key_of: Any,
    values_of: Any,
) -> None:
    table = _TABLES[row]
    gone, fresh, changed = [], [], []
    for change in changes:
        key = {
            "show_id": show_id,
            **key_of(change.after if change.before is None else change.before),
        }
        if change.after is None:
            gone.append({f"key_{name}": value for name, value in key.items()})
        elif change.before is None:
            place = {"place": change.index} if "place" in table.c else {}
            fresh.append({**key, **values_of(change.after), **place})
        elif values_of(change.after) != values_of(change.before):
            changed.append({**{f"key_{n}": v for n, v in key.items()}, **values_of(change.after)})
    match = [column == bindparam(f"key_{column.name}") for column in table.primary_key]
    connection = session.connection()
    if gone:
        connection.execute(delete(table).where(*match), gone)
    if fresh:
        connection.execute(insert(table), fresh)
    if changed:
        connection.execute(update(table).where(*match), changed)


def _write_patches(session: Session, show_id: int, changes: Iterable[Change[Fixture]]) -> None:
    """Patch rows of the fixtures whose patch differs. Those of removed fixtures go with them."""
    table = _TABLES[PatchRow]
    stale, fresh = [], []
    for change in changes:
        if change.after is None or (
            change.before is not None and change.before.patch == change.after.patch
        ):
            continue
        if change.before is not None:
            stale.append({"fixture": change.after.id})
        fresh += [
            {
                "show_id": show_id,
                "fixture_id": change.after.id,
                "part": part,
                "universe": p.universe,
                "slot": p.slot,
            }
            for part, p in enumerate(change.after.patch)
        ]
    connection = session.connection()
    if stale:
        match = (table.c.show_id == show_id, table.c.fixture_id == bindparam("fixture"))
        connection.execute(delete(table).where(*match), stale)
    if fresh:
        connection.execute(insert(table), fresh)


def _write_places(session: Session, show_id: int, found: Difference, after: Show) -> None:
    """Number the places anew, unless the list only grew at its end: then every place still is its
    index."""
    lists: tuple[tuple[type[Base], str, tuple[Any, ...], tuple[Change[Any], ...], bool], ...] = (
        (FixtureRow, "id", after.fixtures, found.fixtures, found.reorder is not None),
        (ProfileRow, "id", after.profiles, found.profiles, False),
        (PositionRow, "name", after.positions, found.positions, False),
        (LineRow, "id", after.lines, found.lines, False),
        (BoxRow, "id", after.boxes, found.boxes, False),
    )
    for row, key, records, changes, reordered in lists:
        added = [change.index for change in changes if change.before is None]
        removed = any(change.after is None for change in changes)
        if records and (
            reordered or removed or min(added, default=len(records)) < len(records) - len(added)
        ):
            table = _TABLES[row]
            match = (table.c.show_id == show_id, table.c[key] == bindparam("record"))
            places = [
                {"record": getattr(record, key), "place": index}
                for index, record in enumerate(records)
            ]
            session.connection().execute(update(table).where(*match), places)


def _universe_values(universe: Universe) -> dict[str, Any]:
    return {"name": universe.name, "reserved": list(universe.reserved)}


def _line_values(line: Line) -> dict[str, Any]:
    return {"document": LINE.dump_json(line, by_alias=True).decode()}


def _box_values(box: Box) -> dict[str, Any]:
    return {"document": BOX.dump_json(box).decode()}


def _position_values(position: Position) -> dict[str, Any]:
    return {"hard": position.hard, "height": position.height, "spacing": position.spacing}


def _profile_values(profile: Profile) -> dict[str, Any]:
    return {"document": PROFILE.dump_json(profile).decode()}


def _fixture_values(fixture: Fixture) -> dict[str, Any]:
    return {
        "number": fixture.number,
        "label": fixture.label,
        "profile": fixture.profile,
        "mode": fixture.mode,
        "position": fixture.position,
        "pinned": fixture.pinned,
        "share": fixture.share,
        "note": fixture.note,
        "set_to": SET_TO.dump_json(fixture.set_to).decode() if fixture.set_to else None,
        "read_back": READ_BACK.dump_json(fixture.read_back).decode() if fixture.read_back else None,
        "proven": PROOF.dump_json(fixture.proven).decode() if fixture.proven else None,
        "ticked": TICKS.dump_json(fixture.ticked).decode() if fixture.ticked else "[]",
        "serial": fixture.serial,
        "turned": fixture.turned,
        "upright": fixture.upright,
        "sign": SIGN.dump_json(fixture.sign).decode() if fixture.sign else None,
        "hangs_at": PLACE.dump_json(fixture.at).decode() if fixture.at else None,
        "scene": SCENE.dump_json(fixture.scene).decode() if fixture.scene else None,
    }
