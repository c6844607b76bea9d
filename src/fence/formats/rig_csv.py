"""A rig as CSV: one fixture a row, the first line naming the columns.

Only ``label`` and ``channels`` are required. Columns that Fence does not know are kept in each
fixture's note. A fixture in several parts writes them joined with ``+``: channels ``4+6``, address
``10+2/101``.
"""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from operator import itemgetter
from types import MappingProxyType
from typing import NamedTuple

from fence.core.edits import with_places
from fence.core.model.address import MAX_UNIVERSE, SLOTS, parse_address
from fence.core.model.errors import FenceError
from fence.core.model.fixture import HIGHEST_NUMBER, Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import MOST_PARTS, Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.model.text import counted, slug
from fence.formats.csv_cells import MOST_COLUMNS, Delimiter, as_text, from_text
from fence.formats.errors import FileError, decoded

COLUMNS = (
    "number",
    "label",
    "maker",
    "model",
    "mode",
    "channels",
    "universe",
    "address",
    "position",
    "shared",
    "pinned",
)
OTHER_WORDS = {
    "number": "no no. nr nr. num # id unit fixture-number fixture-no nummer numéro numero",
    "label": "name fixture-name bezeichnung nom nombre nome naam",
    "maker": "manufacturer make brand vendor hersteller fabricant fabricante",
    "model": "type fixture fixture-type device gerät typ modèle modelo modello",
    "mode": "fixture-mode dmx-mode modus",
    "channels": "ch chs ch. chan channel-count footprint dmx-footprint kanäle canaux canales "
    "canali kanalen",
    "universe": "univ univ. uni u dmx-universe universum univers universo",
    "address": "dmx start addr addr. dmx-address dmx-start start-address dmx-addr adresse "
    "dirección indirizzo adres",
    "position": "place location hang hung-at truss pipe ort ubicación posizione positie",
    "shared": "shares share-group",
    "pinned": "pin locked",
    "note": "notes comment comments remark remarks notiz remarque nota",
}
"""The heads that other programs and people write over these columns, dashes for blanks."""
REQUIRED = ("label", "channels")
NOTE = "note"
MOST_ROWS = 50_000
ROWS_SHOWN = 3
"""Rows that are shown where somebody says which column is which."""

_COLUMN_OF = {
    word.replace("-", " "): column
    for column, words in OTHER_WORDS.items()
    for word in words.split()
}

_YES = {"yes", "y", "true", "1", "x"}
_NO = {"", "no", "n", "false", "0"}


class UnderstoodRow(NamedTuple):
    """A row that became a fixture. ``remark`` says what was assumed, empty where nothing was."""

    line: int
    fixture: Fixture
    remark: str


@dataclass(frozen=True, slots=True)
class RefusedRow:
    """A row that did not, with its text as it stands in the file and the reason."""

    line: int
    text: str
    reason: str


class HeadsError(FileError):
    """A table whose heads say too little: what they are, and the first rows below them, so that
    somebody can say which column is which."""

    def __init__(self, message: str, heads: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
        super().__init__(message, 1)
        self.heads, self.rows = tuple(heads), tuple(tuple(row) for row in rows)


@dataclass(frozen=True, slots=True)
class RigReading:
    """What a file was understood as, row by row."""

    show: Show
    understood: tuple[UnderstoodRow, ...]
    refused: tuple[RefusedRow, ...]
    noted_columns: tuple[str, ...]
    header: str
    columns: tuple[str, ...] = ()


def write_rig_csv(show: Show, delimiter: Delimiter = Delimiter.COMMA) -> str:
    """The rig as CSV text, lines ending in CR LF as spreadsheets write them."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=delimiter.sign)
    writer.writerow((*COLUMNS, NOTE))
    for fixture in show.fixtures:
        profile, footprints = show.profile_of(fixture), show.footprints_of(fixture)
        writer.writerow(
            (
                "" if fixture.number is None else fixture.number,
                as_text(fixture.label),
                as_text(profile.maker) if profile else "",
                as_text(profile.model) if profile else "",
                as_text(fixture.mode),
                "+".join(map(str, footprints)),
                fixture.universe or "",
                _write_address(fixture),
                as_text(fixture.position),
                as_text(fixture.share),
                "yes" if fixture.pinned else "",
                as_text(fixture.note),
            )
        )
    return out.getvalue()


def _write_address(fixture: Fixture) -> str:
    first, *rest = fixture.patch
    pieces = ["" if first.slot is None else str(first.slot)]
    for patch in rest:
        pieces.append("" if patch.slot is None else f"{patch.universe}/{patch.slot}")
    return "+".join(pieces) if any(pieces) else ""


def read_rig_csv(
    data: bytes,
    *,
    name: str = "Imported rig",
    known: Sequence[Profile] = (),
    heads: Mapping[str, str] = MappingProxyType({}),
) -> RigReading:
    """Read a rig. Rows that cannot be understood are in ``refused`` and leave no trace in the show.

    ``known`` profiles are used where maker, model, mode and channels agree; else a profile without
    a chart is made. ``heads`` are words for columns beside those that Fence knows. Raises
    ``FileError`` where the file as a whole cannot be read, ``HeadsError`` where its heads do not
    say which column is which.
    """
    text = decoded(data, of_spreadsheet=True)
    header_line, delimiter, columns = _header(text, heads)
    reader = _Reader(columns, delimiter, known, marked="'" in text)
    for line, cells in _rows(text, delimiter):
        reader.read(line, cells)
    fixtures = tuple([row.fixture for row in reader.understood])
    show = Show(
        name=name, fixtures=fixtures, profiles=reader.kinds.profiles(), next_id=len(fixtures) + 1
    )
    noted = tuple(column for column in columns if column not in (*COLUMNS, NOTE))
    return RigReading(
        with_places(show),
        tuple(reader.understood),
        tuple(reader.refused),
        noted,
        header_line,
        tuple(columns),
    )


def head_of(words: str) -> str:
    """A head for comparing: in lower case, with single blanks."""
    return " ".join(words.lower().replace("_", " ").split())


def column_of(words: str, heads: Mapping[str, str] = MappingProxyType({})) -> str:
    """The column that a head is; empty for none."""
    head = head_of(words)
    column = heads.get(head) or _COLUMN_OF.get(head, head)
    return column if column in (*COLUMNS, NOTE) else ""


def _header(text: str, heads: Mapping[str, str]) -> tuple[str, str, list[str]]:
    """The first line, its delimiter and the names of its columns."""
    line = text.lstrip("\r\n").splitlines()[0]
    best: list[str] = []
    widest: list[str] = []
    chosen = widely = ","
    for delimiter in (",", ";", "\t"):
        try:
            row = next(csv.reader([line], delimiter=delimiter, strict=True), [])
        except csv.Error:
            continue
        names = _known_heads([head_of(name) for name in row], heads)
        if len(row) > len(widest):
            widest, widely = row, delimiter
        if len(names) > MOST_COLUMNS:
            raise FileError(
                f"The first line names {len(names)} columns. Use up to {MOST_COLUMNS}.", 1
            )
        if len(set(names) & set(COLUMNS)) > len(set(best) & set(COLUMNS)):
            best, chosen = names, delimiter
    accepted = (
        f"Accepted: a first line naming the columns, any of {', '.join(COLUMNS)}; label "
        "and channels are required."
    )
    if not best:
        told = f"This line names no column that a rig has. {accepted}"
        raise _heads_error(told, text, widest, widely)
    if missing := [column for column in REQUIRED if column not in best]:
        told = f"The column {' and '.join(missing)} is missing. {accepted}"
        raise _heads_error(told, text, widest, widely)
    if twice := {column for column in best if column and best.count(column) > 1}:
        raise FileError(f"The column {min(twice)} is there twice. {accepted}", 1)
    return line, chosen, best


def _heads_error(told: str, text: str, heads: Sequence[str], delimiter: str) -> FileError:
    """The heads with the first rows below them; where there is one column only, or none below, it
    is no table."""
    rows = []
    try:
        for _, cells in _rows(text, delimiter):
            rows.append(cells[:MOST_COLUMNS])
            if len(rows) == ROWS_SHOWN:
                break
    except FileError:
        rows = []
    if len(heads) < 2 or not rows:
        return FileError(told, 1)
    return HeadsError(told, heads, rows)


def _known_heads(names: list[str], heads: Mapping[str, str]) -> list[str]:
    """The heads with those in other words by Fence's own, where its own is not there as well."""
    own = set(names)
    found: list[str] = []
    for name in names:
        column = heads.get(name) or _COLUMN_OF.get(name, name)
        free = column == name or (column not in own and column not in found)
        found.append(column if free else name)
    return found


def _rows(text: str, delimiter: str) -> Iterator[tuple[int, list[str]]]:
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    seen_header, count = False, 0
    try:
        for cells in reader:
            if not "".join(cells).strip():
                continue
            if not seen_header:
                seen_header = True
                continue
            count += 1
            if count > MOST_ROWS:
                raise FileError(
                    f"The file has more than {MOST_ROWS} rows: that many are accepted.",
                    reader.line_num,
                )
            yield reader.line_num, cells
    except csv.Error as error:
        raise FileError(
            f"This is not CSV ({error}). Accepted: CSV with quotes closed.", reader.line_num
        ) from None


class _Kind(NamedTuple):
    """What a row's fixture is: its profile's id, its mode, and a remark where something was
    assumed. ``gone`` where the chart has no such mode any more: how many parts it has is then said
    by the row's address alone."""

    profile: str
    mode: Mode
    remark: str
    gone: bool = False


class _Kinds:
    """The fixture types that rows name: charts that are known, and types known by their footprint
    only.

    A type without a chart is one profile for each maker and model. A mode name that is met with
    another footprint starts a second one, a third footprint a third: the *n*-th footprint of a name
    stands in the *n*-th profile.
    """

    def __init__(self, known: Sequence[Profile]) -> None:
        self.known = {
            (profile.maker.casefold(), profile.model.casefold()): profile for profile in known
        }
        self.found: dict[tuple[str, str, str, str], _Kind] = {}
        self.charted: dict[str, Profile] = {}
        self.bare_ids: dict[tuple[str, str], list[str]] = {}
        self.bare_modes: dict[str, dict[str, Mode]] = {}
        self.variants: dict[tuple[str, str, str], dict[tuple[int, ...], int]] = {}
        self.stems: Counter[str] = Counter()
        self.order: dict[str, tuple[str, str]] = {}

    def kind(self, maker: str, model: str, mode_name: str, channels: str) -> _Kind:
        """What such a row is; nothing is remembered before ``keep``. ``FileError`` where it is not
        said."""
        found = self.found.get((maker, model, mode_name, channels))
        return found or self._read(maker, model, mode_name, channels)

    def keep(self, key: tuple[str, str, str, str], kind: _Kind) -> None:
        """Hold on to the kind of a row that was understood. ``key`` is what ``kind`` was asked
        with."""
        if key in self.found:
            return
        self.found[key] = kind
        maker, model = key[:2]
        self.order.setdefault(kind.profile, (maker, model))
        known = self.known.get((maker.casefold(), model.casefold()))
        if known is not None and kind.profile == known.id:
            self.charted[known.id] = known
            return
        ids = self.bare_ids.setdefault((maker, model), [])
        if kind.profile not in self.bare_modes:
            ids.append(kind.profile)
            self.stems[slug(f"{maker} {model}", "unnamed")] += 1
        self.bare_modes.setdefault(kind.profile, {})[kind.mode.name] = kind.mode
        variants = self.variants.setdefault((maker, model, kind.mode.name), {})
        variants.setdefault(_footprints(kind.mode), len(variants))

    def profiles(self) -> tuple[Profile, ...]:
        """The profiles of all kinds that were kept, in the order in which rows first named them."""
        return tuple(
            self.charted.get(profile_id)
            or Profile(profile_id, *named, tuple(self.bare_modes[profile_id].values()))
            for profile_id, named in self.order.items()
        )

    def _read(self, maker: str, model: str, mode_name: str, channels: str) -> _Kind:
        profile = self.known.get((maker.casefold(), model.casefold()))
        mode = _mode_named(profile, mode_name) if profile and mode_name else None
        if not channels:
            if profile is None or not mode_name:
                raise FileError("The channels are empty: a whole number from 0 to 512 is needed.")
            if mode is None:
                remark = (
                    f"the chart of {profile.title} has no mode “{mode_name}”: kept so, to be "
                    "chosen anew"
                )
                return _Kind(profile.id, Mode(mode_name, (Part(0),)), remark, gone=True)
            return _Kind(
                profile.id,
                mode,
                f"{counted(mode.footprint, 'channel')} from the chart of {profile.title}",
            )
        footprints = tuple(
            [_whole("channels", piece.strip(), 0, SLOTS) for piece in channels.split("+")]
        )
        remark = ""
        if profile and mode:
            if _footprints(mode) == footprints:
                return _Kind(profile.id, mode, "")
            remark = (
                f"the chart of {profile.title} says {counted(mode.footprint, 'channel')}; "
                f"the row’s {channels} are kept"
            )
        mode = Mode(
            mode_name or f"{channels} channels", tuple(Part(footprint) for footprint in footprints)
        )
        return _Kind(self._bare_id(maker, model, mode), mode, remark)

    def _bare_id(self, maker: str, model: str, mode: Mode) -> str:
        variants = self.variants.get((maker, model, mode.name), {})
        ids = self.bare_ids.get((maker, model), [])
        place = variants.get(_footprints(mode), len(variants))
        if place < len(ids):
            return ids[place]
        stem = slug(f"{maker} {model}", "unnamed")
        count = self.stems[stem] + 1
        return f"{stem}-uncharted" + (f"-{count}" if count > 1 else "")


def _footprints(mode: Mode) -> tuple[int, ...]:
    return tuple([part.footprint for part in mode.parts])


class _Reader:
    """Turns rows into fixtures, and collects the kinds they name."""

    def __init__(
        self, columns: list[str], delimiter: str, known: Sequence[Profile], *, marked: bool
    ) -> None:
        """``marked``: an apostrophe stands somewhere in the file, so cells may be marked as
        text."""
        self.columns, self.delimiter = columns, delimiter
        self.marked = marked
        places = {column: place for place, column in enumerate(columns)}
        self.pick = itemgetter(*(places.get(column, len(columns)) for column in (*COLUMNS, NOTE)))
        self.extra = [
            (place, name)
            for place, name in enumerate(columns)
            if name and name not in (*COLUMNS, NOTE)
        ]
        self.kinds = _Kinds(known)
        self.understood: list[UnderstoodRow] = []
        self.refused: list[RefusedRow] = []

    def read(self, line: int, cells: list[str]) -> None:
        """Take one row: a fixture, or a refused row with the reason."""
        try:
            fixture, remark = self._fixture(cells)
        except FenceError as error:
            out = io.StringIO()
            csv.writer(out, delimiter=self.delimiter, lineterminator="").writerow(cells)
            self.refused.append(RefusedRow(line, out.getvalue(), str(error)))
        else:
            self.understood.append(UnderstoodRow(line, fixture, remark))

    def _fixture(self, cells: list[str]) -> tuple[Fixture, str]:
        wide = len(self.columns)
        if len(cells) > wide:
            while len(cells) > wide and not cells[-1].strip():
                cells = cells[:-1]
        if len(cells) > wide:
            raise FileError(f"The row has {len(cells)} values for {wide} columns.")
        row = list(map(str.strip, cells))
        if self.marked:
            row = list(map(from_text, row))
        row += [""] * (wide + 1 - len(row))
        (
            number,
            label,
            maker,
            model,
            mode_name,
            channels,
            universe,
            address,
            position,
            group,
            pinned,
            note,
        ) = self.pick(row)
        if not label:
            raise FileError("The label is empty: every fixture needs one.")
        key = (maker, model, mode_name, channels)
        kind = self.kinds.kind(*key)
        mode = kind.mode
        if kind.gone:
            mode = replace(mode, parts=mode.parts * min(address.count("+") + 1, MOST_PARTS))
        patch, assumed = _read_patch(mode, universe, address)
        fixture = Fixture(
            len(self.understood) + 1,
            label,
            kind.profile,
            kind.mode.name,
            _whole("number", number, 0, HIGHEST_NUMBER) if number else None,
            position,
            patch,
            bool(pinned) and _yes_or_no(pinned),
            group,
            self._note(note, row) if self.extra else note,
        )
        self.kinds.keep(key, kind)
        remark = "; ".join(filter(None, (kind.remark, assumed))) if kind.remark or assumed else ""
        return fixture, remark

    def _note(self, note: str, row: list[str]) -> str:
        more = [f"{name}: {row[place]}" for place, name in self.extra if row[place]]
        return "; ".join(filter(None, (note, *more)))


def _mode_named(profile: Profile, name: str) -> Mode | None:
    return next((mode for mode in profile.modes if mode.name.casefold() == name.casefold()), None)


_WITH_UNIVERSE = re.compile(r"[uU]?\s*\d+\s*[/.\s]")
"""How an address begins that says its universe as well: ``2/101``, ``2.101``, ``U2 101``."""
_WITH_ZEROS = re.compile(r"(\d{1,9})[.,]0+", re.ASCII)
"""A whole number as spreadsheets write it that take it for a decimal one: ``12.0``, ``12,00``."""


def _whole(what: str, text: str, least: int, most: int) -> int:
    if (
        text.isascii()
        and text.isdigit()
        and len(text) <= 9
        and least <= (number := int(text)) <= most
    ):
        return number
    if whole := _WITH_ZEROS.fullmatch(text):
        text = whole[1]
    if not (text.isascii() and text.isdigit() and len(text) <= 9 and least <= int(text) <= most):
        shown = text if len(text) <= 40 else text[:40] + "…"
        raise FileError(
            f"“{shown}” in {what} is not usable. Use whole numbers from {least} to {most}."
        )
    return int(text)


@lru_cache(2048)
def _universe(text: str) -> int:
    return _whole("universe", text, 1, MAX_UNIVERSE)


def _yes_or_no(text: str) -> bool:
    if text.casefold() in _YES:
        return True
    if text.casefold() in _NO:
        return False
    raise FileError(f"“{text[:40]}” in pinned is neither yes nor no. Use yes, no or nothing.")


_SLOT = {str(slot): slot for slot in range(1, SLOTS + 1)}
"""The usual way to write a slot, looked up rather than read: most of a large file is slots."""


def _read_patch(mode: Mode, universe: str, address: str) -> tuple[tuple[Patch, ...], str]:
    """The patch of a row, and what was assumed in it, empty where nothing was."""
    home = _universe(universe) if universe else None
    if not address:
        return (Patch(home),) * len(mode.parts), ""
    if home is not None and len(mode.parts) == 1 and (slot := _SLOT.get(address)):
        return (Patch(home, slot),), ""
    pieces = [piece.strip() for piece in address.split("+")]
    if len(pieces) > len(mode.parts):
        raise FileError(
            f"The address has {len(pieces)} parts, the channels have {len(mode.parts)}."
        )
    entries, assumed = [], ""
    for piece in pieces:
        if not piece:
            entries.append(Patch(home))
        elif _WITH_UNIVERSE.match(piece) and not _WITH_ZEROS.fullmatch(piece):
            target = parse_address(piece)
            entries.append(Patch(target.universe, target.slot))
        else:
            if home is None:
                assumed, home = "no universe given, taken as 1", 1
            entries.append(Patch(home, _whole("address", piece, 1, SLOTS)))
    return (*entries, *(Patch(home) for _ in range(len(mode.parts) - len(entries)))), assumed
