"""A rig as CSV: one fixture a row, the first line naming the columns.

Only ``label`` and ``channels`` are required. Columns that Fence does not know are kept in each fixture's note.
A fixture in several parts writes them joined with ``+``: channels ``4+6``, address ``10+2/101``.
"""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from fence.core.address import SLOTS, parse_address
from fence.core.edits import with_places
from fence.core.errors import FenceError
from fence.core.profile import Mode, Part, Profile
from fence.core.show import Fixture, Patch, Show
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
REQUIRED = ("label", "channels")
NOTE = "note"
MOST_ROWS = 50_000

_YES = {"yes", "y", "true", "1", "x"}
_NO = {"", "no", "n", "false", "0"}


@dataclass(frozen=True, slots=True)
class UnderstoodRow:
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


@dataclass(frozen=True, slots=True)
class RigReading:
    """What a file was understood as, row by row."""

    show: Show
    understood: tuple[UnderstoodRow, ...]
    refused: tuple[RefusedRow, ...]
    noted_columns: tuple[str, ...]
    header: str


def write_rig_csv(show: Show) -> str:
    """The rig as CSV text, lines ending in CR LF as spreadsheets write them."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow((*COLUMNS, NOTE))
    for fixture in show.fixtures:
        profile, footprints = show.profile_of(fixture), show.footprints_of(fixture)
        writer.writerow(
            (
                "" if fixture.number is None else fixture.number,
                fixture.label,
                profile.maker if profile else "",
                profile.model if profile else "",
                fixture.mode,
                "+".join(map(str, footprints)),
                fixture.universe or "",
                _write_address(fixture),
                fixture.position,
                fixture.share,
                "yes" if fixture.pinned else "",
                fixture.note,
            )
        )
    return out.getvalue()


def _write_address(fixture: Fixture) -> str:
    first, *rest = fixture.patch
    pieces = ["" if first.slot is None else str(first.slot)]
    for patch in rest:
        pieces.append("" if patch.slot is None else f"{patch.universe}/{patch.slot}")
    return "+".join(pieces) if any(pieces) else ""


def read_rig_csv(data: bytes, *, name: str = "Imported rig", known: Sequence[Profile] = ()) -> RigReading:
    """Read a rig. Rows that cannot be understood are in ``refused`` and leave no trace in the show.

    ``known`` profiles are used where maker, model, mode and channels agree; else a profile without a chart is made.
    Raises ``FileError`` where the file as a whole cannot be read.
    """
    text = decoded(data)
    header_line, delimiter, columns = _header(text)
    reader = _Reader(columns, delimiter, known)
    for line, cells in _rows(text, delimiter):
        reader.read(line, cells)
    fixtures = tuple(row.fixture for row in reader.understood)
    show = Show(
        name=name,
        fixtures=fixtures,
        profiles=tuple(reader.profiles.values()),
        next_id=len(fixtures) + 1,
    )
    noted = tuple(column for column in columns if column not in (*COLUMNS, NOTE))
    return RigReading(with_places(show), tuple(reader.understood), tuple(reader.refused), noted, header_line)


def _header(text: str) -> tuple[str, str, list[str]]:
    """The first line, its delimiter and the names of its columns."""
    line = text.lstrip("\r\n").splitlines()[0]
    best: list[str] = []
    chosen = ","
    for delimiter in (",", ";", "\t"):
        try:
            row = next(csv.reader([line], delimiter=delimiter, strict=True), [])
        except csv.Error:
            continue
        names = [name.strip().lower() for name in row]
        if len(set(names) & set(COLUMNS)) > len(set(best) & set(COLUMNS)):
            best, chosen = names, delimiter
    accepted = (
        f"Accepted: a first line naming the columns, any of {', '.join(COLUMNS)}; label and channels are required."
    )
    if not best:
        raise FileError(f"This line names no column that a rig has. {accepted}", 1)
    if missing := [column for column in REQUIRED if column not in best]:
        raise FileError(f"The column {' and '.join(missing)} is missing. {accepted}", 1)
    if twice := {column for column in best if column and best.count(column) > 1}:
        raise FileError(f"The column {min(twice)} is there twice. {accepted}", 1)
    return line, chosen, best


def _rows(text: str, delimiter: str) -> Iterator[tuple[int, list[str]]]:
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    seen_header, count = False, 0
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if not seen_header:
                seen_header = True
                continue
            count += 1
            if count > MOST_ROWS:
                raise FileError(f"The file has more than {MOST_ROWS} rows: that many are accepted.", reader.line_num)
            yield reader.line_num, cells
    except csv.Error as error:
        raise FileError(f"This is not CSV ({error}). Accepted: CSV with quotes closed.", reader.line_num) from None


class _Reader:
    """Turns rows into fixtures, and collects the profiles they name."""

    def __init__(self, columns: list[str], delimiter: str, known: Sequence[Profile]) -> None:
        self.columns, self.delimiter = columns, delimiter
        self.known = {(profile.maker.casefold(), profile.model.casefold()): profile for profile in known}
        self.profiles: dict[str, Profile] = {}
        self.bare: dict[tuple[str, str], list[str]] = {}
        self.stems: Counter[str] = Counter()
        self.understood: list[UnderstoodRow] = []
        self.refused: list[RefusedRow] = []

    def read(self, line: int, cells: list[str]) -> None:
        try:
            fixture, remark = self._fixture(cells)
        except FenceError as error:
            out = io.StringIO()
            csv.writer(out, delimiter=self.delimiter, lineterminator="").writerow(cells)
            self.refused.append(RefusedRow(line, out.getvalue(), str(error)))
        else:
            self.understood.append(UnderstoodRow(line, fixture, remark))

    def _fixture(self, cells: list[str]) -> tuple[Fixture, str]:
        if len(cells) > len(self.columns):
            raise FileError(f"The row has {len(cells)} values for {len(self.columns)} columns.")
        row = dict(zip(self.columns, (cell.strip() for cell in cells), strict=False))

        def get(column: str) -> str:
            return row.get(column, "")

        if not get("label"):
            raise FileError("The label is empty: every fixture needs one.")
        remarks: list[str] = []
        profile, mode = self._mode(get("maker"), get("model"), get("mode"), get("channels"), remarks)
        patch = _read_patch(mode, get("universe"), get("address"), remarks)
        number = _whole("number", get("number"), 0, 999_999_999) if get("number") else None
        fixture = Fixture(
            id=len(self.understood) + 1,
            label=get("label"),
            profile=profile.id,
            mode=mode.name,
            number=number,
            position=get("position"),
            patch=patch,
            pinned=_yes_or_no(get("pinned")),
            share=get("shared"),
            note=self._note(row),
        )
        self._keep(profile)
        return fixture, "; ".join(remarks)

    def _keep(self, profile: Profile) -> None:
        """Hold on to the profile of a row that was understood."""
        if profile.id not in self.profiles and profile.id.rpartition("-uncharted")[1]:
            self.bare.setdefault((profile.maker, profile.model), []).append(profile.id)
            self.stems[profile.id.rpartition("-uncharted")[0]] += 1
        self.profiles[profile.id] = profile

    def _note(self, row: dict[str, str]) -> str:
        notes = [row.get(NOTE, "")]
        notes += [f"{name}: {value}" for name, value in row.items() if name and name not in (*COLUMNS, NOTE) and value]
        return "; ".join(filter(None, notes))

    def _mode(self, maker: str, model: str, mode_name: str, channels: str, remarks: list[str]) -> tuple[Profile, Mode]:
        profile = self.known.get((maker.casefold(), model.casefold()))
        mode = _mode_named(profile, mode_name) if profile and mode_name else None
        if not channels:
            if profile is None or mode is None:
                raise FileError("The channels are empty: a whole number from 0 to 512 is needed.")
            remarks.append(f"{mode.footprint} channels from the chart of {profile.title}")
            return profile, mode
        footprints = tuple(_whole("channels", piece.strip(), 0, SLOTS) for piece in channels.split("+"))
        if profile and mode:
            charted = tuple(part.footprint for part in mode.parts)
            if charted == footprints:
                return profile, mode
            remarks.append(
                f"the chart of {profile.title} says {mode.footprint} channels; the row’s {channels} are kept"
            )
        mode = Mode(mode_name or f"{channels} channels", tuple(Part(footprint) for footprint in footprints))
        return self._bare(maker, model, mode), mode

    def _bare(self, maker: str, model: str, mode: Mode) -> Profile:
        """A profile known by footprint only. A mode name met with another footprint starts a second one."""
        for profile_id in self.bare.get((maker, model), ()):
            profile = self.profiles[profile_id]
            held = profile.mode(mode.name)
            if held == mode:
                return profile
            if held is None:
                return replace(profile, modes=(*profile.modes, mode))
        stem = re.sub(r"[^a-z0-9]+", "-", f"{maker} {model}".lower()).strip("-") or "unnamed"
        count = self.stems[stem] + 1
        profile_id = f"{stem}-uncharted" + (f"-{count}" if count > 1 else "")
        return Profile(profile_id, maker, model, (mode,))


def _mode_named(profile: Profile, name: str) -> Mode | None:
    return next((mode for mode in profile.modes if mode.name.casefold() == name.casefold()), None)


def _whole(what: str, text: str, least: int, most: int) -> int:
    if not (text.isascii() and text.isdigit() and len(text) <= 9 and least <= int(text) <= most):
        shown = text if len(text) <= 40 else text[:40] + "…"
        raise FileError(f"“{shown}” in {what} is not usable: accepted are whole numbers from {least} to {most}.")
    return int(text)


def _yes_or_no(text: str) -> bool:
    if text.casefold() in _YES:
        return True
    if text.casefold() in _NO:
        return False
    raise FileError(f"“{text[:40]}” in pinned is neither yes nor no: accepted are yes, no or nothing.")


def _read_patch(mode: Mode, universe: str, address: str, remarks: list[str]) -> tuple[Patch, ...]:
    home = _whole("universe", universe, 1, 63_999) if universe else None
    pieces = [piece.strip() for piece in address.split("+")] if address else []
    if len(pieces) > len(mode.parts):
        raise FileError(f"The address has {len(pieces)} parts, the channels have {len(mode.parts)}.")
    entries = []
    for piece in pieces or [""]:
        if not piece:
            entries.append(Patch(home))
        elif "/" in piece:
            target = parse_address(piece)
            entries.append(Patch(target.universe, target.slot))
        else:
            if home is None:
                remarks.append("no universe given, taken as 1")
                home = 1
            entries.append(Patch(home, _whole("address", piece, 1, SLOTS)))
    return (*entries, *(Patch(home) for _ in range(len(mode.parts) - len(entries))))
