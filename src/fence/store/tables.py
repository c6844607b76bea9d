"""The tables. One row a fixture, a patch entry, a universe, a position; charts as documents; the
log of differences."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import JSON, Float, ForeignKey, ForeignKeyConstraint, Index, MetaData, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Names every constraint, so that migrations can speak of them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class CounterRow(Base):
    """A number that only grows: the last id that was given away under a name."""

    __tablename__ = "counters"

    name: Mapped[str] = mapped_column(Text, primary_key=True)
    value: Mapped[int]


class ShowRow(Base):
    """A show's heading. ``revision`` grows by one with every save.

    ``id`` comes from a counter and ``key`` from chance, so that neither is given to another show
    later. ``summary`` is a document: what the rules said of one revision, for the list of shows.
    """

    __tablename__ = "shows"

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(Text, default="", server_default="")
    summary: Mapped[str | None] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    revision: Mapped[int] = mapped_column(default=1)
    desk_name: Mapped[str] = mapped_column(Text, default="")
    desk_universes: Mapped[int | None]
    desk_page: Mapped[int | None]
    desk_buttons: Mapped[int | None]
    desk_highest: Mapped[int] = mapped_column(default=512, server_default="512")
    desk_layout: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")
    needs: Mapped[str] = mapped_column(Text, default="[]", server_default="[]")
    tell_tale_slot: Mapped[int | None]
    tell_tale_scale: Mapped[str | None] = mapped_column(Text)
    walk: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")
    skipped: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")
    ground: Mapped[str | None] = mapped_column(Text)
    stock: Mapped[str] = mapped_column(Text, default="[]", server_default="[]")
    day: Mapped[str | None] = mapped_column(Text)
    net: Mapped[str | None] = mapped_column(Text)
    waivers: Mapped[str] = mapped_column(Text, default="[]", server_default="[]")
    next_fixture_id: Mapped[int]
    note: Mapped[str] = mapped_column(Text, default="")
    created_at: Mapped[datetime]
    changed_at: Mapped[datetime]
    deleted_at: Mapped[datetime | None]


class FixtureRow(Base):
    """A fixture. ``place`` orders the rig.

    ``set_to``, ``read_back`` and ``proven`` are documents, null while nobody has; ``ticked`` is a
    list of them.
    """

    __tablename__ = "fixtures"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    place: Mapped[int]
    number: Mapped[int | None]
    label: Mapped[str] = mapped_column(Text)
    profile: Mapped[str] = mapped_column(Text)
    mode: Mapped[str] = mapped_column(Text)
    position: Mapped[str] = mapped_column(Text)
    pinned: Mapped[bool]
    share: Mapped[str] = mapped_column(Text)
    note: Mapped[str] = mapped_column(Text)
    set_to: Mapped[str | None] = mapped_column(Text)
    read_back: Mapped[str | None] = mapped_column(Text)
    proven: Mapped[str | None] = mapped_column(Text)
    ticked: Mapped[str] = mapped_column(Text, default="[]", server_default="[]")
    serial: Mapped[str] = mapped_column(Text, default="", server_default="")
    turned: Mapped[bool] = mapped_column(default=False, server_default="0")
    upright: Mapped[bool] = mapped_column(default=False, server_default="0")
    sign: Mapped[str | None] = mapped_column(Text)
    hangs_at: Mapped[str | None] = mapped_column(Text)
    scene: Mapped[str | None] = mapped_column(Text)


class PatchRow(Base):
    """Universe and start slot of one part of a fixture."""

    __tablename__ = "patches"
    __table_args__ = (
        ForeignKeyConstraint(
            ["show_id", "fixture_id"], ["fixtures.show_id", "fixtures.id"], ondelete="CASCADE"
        ),
    )

    show_id: Mapped[int] = mapped_column(primary_key=True)
    fixture_id: Mapped[int] = mapped_column(primary_key=True)
    part: Mapped[int] = mapped_column(primary_key=True)
    universe: Mapped[int | None]
    slot: Mapped[int | None]


class UniverseRow(Base):
    """A universe of a show. ``reserved`` lists slots."""

    __tablename__ = "universes"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    name: Mapped[str] = mapped_column(Text)
    reserved: Mapped[list[int]] = mapped_column(JSON)


class PositionRow(Base):
    """A position of a show, in the order in which they were named."""

    __tablename__ = "positions"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    name: Mapped[str] = mapped_column(Text, primary_key=True)
    place: Mapped[int]
    hard: Mapped[bool] = mapped_column(default=False, server_default="0")
    height: Mapped[float | None] = mapped_column(Float)
    spacing: Mapped[float | None] = mapped_column(Float)


class LineRow(Base):
    """A line of a show, as a document."""

    __tablename__ = "lines"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    place: Mapped[int]
    document: Mapped[str] = mapped_column(Text)


class BoxRow(Base):
    """A box of the network, as a document."""

    __tablename__ = "boxes"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    place: Mapped[int]
    document: Mapped[str] = mapped_column(Text)


class ProfileRow(Base):
    """A profile as the show was planned with it."""

    __tablename__ = "profiles"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    place: Mapped[int]
    document: Mapped[str] = mapped_column(Text)


class LogRow(Base):
    """One saved step: when, who, from where, what in words, and the reversible difference; a note
    to it, and whose.

    ``kind`` is ``edit``, ``undo`` or ``redo``. ``state`` of an edit is ``done``, ``undone``, or
    ``dropped`` once a new edit has taken the place of those that could have been redone.
    """

    __tablename__ = "log"
    __table_args__ = (
        Index("ix_log_show_state", "show_id", "kind", "state", "id"),
        Index("ix_log_show_id_id", "show_id", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    show_id: Mapped[int] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"))
    revision: Mapped[int]
    at: Mapped[datetime]
    who: Mapped[str] = mapped_column(Text)
    words: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    state: Mapped[str] = mapped_column(Text)
    difference: Mapped[str] = mapped_column(Text)
    origin: Mapped[str] = mapped_column(Text, default="", server_default="")
    note: Mapped[str] = mapped_column(Text, default="", server_default="")
    noted_by: Mapped[str] = mapped_column(Text, default="", server_default="")


class LogFixtureRow(Base):
    """That a step of the log is about a fixture."""

    __tablename__ = "log_fixtures"

    fixture_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    log_id: Mapped[int] = mapped_column(
        ForeignKey("log.id", ondelete="CASCADE"), primary_key=True, autoincrement=False, index=True
    )


class SnapshotRow(Base):
    """A state of a show that somebody gave a name."""

    __tablename__ = "snapshots"

    id: Mapped[int] = mapped_column(primary_key=True)
    show_id: Mapped[int] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    revision: Mapped[int]
    name: Mapped[str] = mapped_column(Text)
    who: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]


class ChartRow(Base):
    """A revision of a chart in the library that all shows share. A retired chart is offered no
    more."""

    __tablename__ = "charts"

    id: Mapped[str] = mapped_column(Text, primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    document: Mapped[str] = mapped_column(Text)
    retired: Mapped[bool]
    at: Mapped[datetime]
    who: Mapped[str] = mapped_column(Text)


class WordingRow(Base):
    """A wording of manuals, tidied, that someone said means a function. It comes before the shipped
    ones."""

    __tablename__ = "wordings"

    wording: Mapped[str] = mapped_column(Text, primary_key=True)
    function: Mapped[str] = mapped_column(Text)


class DraftRow(Base):
    """A file that was uploaded for import and is not saved yet."""

    __tablename__ = "drafts"

    id: Mapped[str] = mapped_column(Text, primary_key=True)
    filename: Mapped[str] = mapped_column(Text)
    content: Mapped[bytes]
    created_at: Mapped[datetime]


class PersonRow(Base):
    """Somebody who may log in. ``folded`` is the name as it is compared; the password is kept as a
    salted hash only."""

    __tablename__ = "people"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    folded: Mapped[str] = mapped_column(Text, unique=True)
    role: Mapped[str] = mapped_column(Text)
    password: Mapped[str] = mapped_column(Text)
    since: Mapped[datetime]


class SittingRow(Base):
    """A browser that somebody is logged in with. ``token`` is the hash of what its cookie holds."""

    __tablename__ = "sittings"

    id: Mapped[int] = mapped_column(primary_key=True)
    token: Mapped[str] = mapped_column(Text, unique=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    device: Mapped[str] = mapped_column(Text)
    began: Mapped[datetime]
    seen: Mapped[datetime]


class InvitationRow(Base):
    """A code that lets one person in, once, until a time. ``code`` is its hash."""

    __tablename__ = "invitations"

    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(Text, unique=True)
    role: Mapped[str] = mapped_column(Text)
    by: Mapped[str] = mapped_column(Text)
    until: Mapped[datetime]


class SendingRow(Base):
    """A mark that a browser sent and that is saved: the same sending again changes nothing."""

    __tablename__ = "sendings"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    at: Mapped[datetime] = mapped_column(index=True)


class WayRow(Base):
    """An address that a show may be sent to, since somebody confirmed it."""

    __tablename__ = "ways"

    id: Mapped[int] = mapped_column(primary_key=True)
    show_id: Mapped[int] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    protocol: Mapped[str] = mapped_column(Text)
    to: Mapped[str] = mapped_column(Text)
    who: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]


class TrimRow(Base):
    """How bright an emitter of a type is seen to be, beside the model: for matching colours, for
    all shows."""

    __tablename__ = "trims"

    profile: Mapped[str] = mapped_column(Text, primary_key=True)
    function: Mapped[str] = mapped_column(Text, primary_key=True)
    factor: Mapped[float] = mapped_column(Float)


class AnswersRow(Base):
    """Who answered on the lines of a show when it was asked last, and what they said."""

    __tablename__ = "answers"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    document: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]


class EvidenceRow(Base):
    """What a check answered while somebody looked for what is wrong in a show, and a number for
    what it rests on."""

    __tablename__ = "evidence"

    id: Mapped[int] = mapped_column(primary_key=True)
    show_id: Mapped[int] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    document: Mapped[str] = mapped_column(Text)
    rests_on: Mapped[int]
    who: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]


class HeadRow(Base):
    """The head of a column in files of others, and the column that it is, as somebody said."""

    __tablename__ = "heads"

    head: Mapped[str] = mapped_column(Text, primary_key=True)
    column: Mapped[str] = mapped_column(Text)


class WeightsRow(Base):
    """How likely each kind of trouble is in a show to begin with, where somebody knows better than
    practice."""

    __tablename__ = "weights"

    show_id: Mapped[int] = mapped_column(
        ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True
    )
    document: Mapped[str] = mapped_column(Text)


class PracticeRow(Base):
    """How far somebody is with the drills. ``learner`` is a person, a name or a browser."""

    __tablename__ = "practice"

    learner: Mapped[str] = mapped_column(Text, primary_key=True)
    document: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]


class CaseRow(Base):
    """A rig with hidden faults that somebody made for others to find."""

    __tablename__ = "cases"

    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    who: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]


class SearchRow(Base):
    """A search for hidden faults that has ended: who made it, of which case (None for one that
    Fence drew), what was done and how long it took. ``minutes`` as each step is reckoned."""

    __tablename__ = "searches"

    id: Mapped[int] = mapped_column(primary_key=True)
    case_id: Mapped[int | None] = mapped_column(
        ForeignKey("cases.id", ondelete="CASCADE"), index=True
    )
    learner: Mapped[str] = mapped_column(Text, index=True)
    who: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    minutes: Mapped[float] = mapped_column(Float)
    at: Mapped[datetime]
