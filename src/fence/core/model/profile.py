"""What a fixture type is: its modes, what each channel does, and how an address is set on it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fence.core.model.address import SLOTS
from fence.core.model.errors import ChartError
from fence.core.model.text import check_finite, check_id, check_text, check_whole

MOST_PARTS = 64
MOST_SWITCHES = 32
MOST_ROTARY = 9999
"""What four wheels can be turned to; the addresses among them end at 512."""
MOST_HOURS = 1000
SHOWN_LETTERS = "abcdefhlnoprtu-"
"""Letters that a display of seven segments can show."""


def _words(*texts: tuple[str, str]) -> None:
    """Refuse what is no text, with the word for what it was meant to be."""
    for what, text in texts:
        if text:
            check_text(what, text, required=False, error=ChartError)


class Function(StrEnum):
    """What a channel does. The vocabulary is fixed, so that modes can be compared."""

    DIMMER = "dimmer"
    RED = "red"
    GREEN = "green"
    BLUE = "blue"
    WHITE = "white"
    AMBER = "amber"
    UV = "uv"
    LIME = "lime"
    CYAN = "cyan"
    MAGENTA = "magenta"
    YELLOW = "yellow"
    CCT = "cct"
    TINT = "tint"
    PAN = "pan"
    TILT = "tilt"
    ZOOM = "zoom"
    FOCUS = "focus"
    IRIS = "iris"
    FROST = "frost"
    GOBO = "gobo"
    GOBO_ROTATION = "gobo rotation"
    PRISM = "prism"
    COLOUR_WHEEL = "colour wheel"
    SHUTTER = "shutter/strobe"
    SPEED = "speed"
    PROGRAM = "program/macro"
    SOUND = "sound"
    RESET = "reset"
    FUNCTION_SPEED = "function speed"
    PIXEL = "pixel"
    FAN = "fan"
    OUTPUT = "output"
    OTHER = "other"


class Byte(StrEnum):
    """Which part of its value a channel carries. Coarse and fine together make 16 bits."""

    WHOLE = "whole"
    COARSE = "coarse"
    FINE = "fine"


@dataclass(frozen=True, slots=True)
class Range:
    """What levels ``first`` to ``last`` (0 to 255) of a channel mean.

    With ``low`` and ``high`` the meaning runs linearly between them, in ``unit`` (K, %, degrees,
    Hz).
    """

    first: int
    last: int
    meaning: str
    low: float | None = None
    high: float | None = None
    unit: str = ""

    def __post_init__(self) -> None:
        if not 0 <= self.first <= self.last <= 255:
            raise ChartError(
                f"Range {self.first} to {self.last} is not a range of levels: they run from 0 to "
                "255, low first."
            )
        _words(("meaning", self.meaning), ("unit", self.unit))
        for end in (self.low, self.high):
            if end is not None:
                check_finite("value of a range", end, error=ChartError)


@dataclass(frozen=True, slots=True)
class Channel:
    """One slot's worth of control: its function, and the levels that matter."""

    function: Function
    name: str = ""
    cell: int | None = None
    byte: Byte = Byte.WHOLE
    default: int = 0
    highlight: int | None = None
    ranges: tuple[Range, ...] = ()

    def __post_init__(self) -> None:
        for level in (self.default, 0 if self.highlight is None else self.highlight):
            if not 0 <= level <= 255:
                raise ChartError(f"Level {level} does not exist: levels run from 0 to 255.")
        _words(("channel name", self.name))
        if self.cell is not None:
            check_whole("cell", self.cell, 0, 9999, error=ChartError)

    @property
    def title(self) -> str:
        """The channel in words, such as ``red``, ``pan fine`` or ``cell 3 blue``."""
        words = self.name or str(self.function)
        if self.byte is Byte.FINE and "fine" not in words:
            words += " fine"
        return words if self.cell is None else f"cell {self.cell} {words}"


@dataclass(frozen=True, slots=True)
class Part:
    """A piece of a mode that has a start address of its own.

    ``channels`` is empty for a fixture known only by its footprint, else it has one entry a slot.
    """

    footprint: int
    channels: tuple[Channel, ...] = ()
    name: str = ""

    def __post_init__(self) -> None:
        if not 0 <= self.footprint <= SLOTS:
            raise ChartError(
                f"A footprint of {self.footprint} channels is not possible. Use 0 to {SLOTS}."
            )
        if self.channels and len(self.channels) != self.footprint:
            raise ChartError(
                f"{len(self.channels)} channels are listed for a footprint of {self.footprint}."
            )
        _words(("part name", self.name))


@dataclass(frozen=True, slots=True)
class Mode:
    """One way in which a fixture can listen: a name and, nearly always, one part. ``personality``
    is its number over RDM, 1 to 255, None where not known."""

    name: str
    parts: tuple[Part, ...]
    personality: int | None = None

    def __post_init__(self) -> None:
        if not self.parts:
            raise ChartError(
                f"Mode “{self.name}” has no parts: a mode has at least one, of 0 to {SLOTS} "
                "channels."
            )
        if len(self.parts) > MOST_PARTS:
            raise ChartError(
                f"Mode “{self.name}” has {len(self.parts)} parts. Use up to {MOST_PARTS}."
            )
        _words(("mode name", self.name))
        if self.personality is not None:
            check_whole("personality", self.personality, 1, 255, error=ChartError)

    @property
    def footprint(self) -> int:
        """Channels taken, all parts together."""
        return sum(part.footprint for part in self.parts)

    @property
    def functions(self) -> tuple[tuple[Function, int | None, Byte], ...]:
        """What the slots do, in order, free of naming; empty when the chart is not known."""
        return tuple((c.function, c.cell, c.byte) for part in self.parts for c in part.channels)


@dataclass(frozen=True, slots=True)
class Emitter:
    """The light of one emitter as its maker measured it: chromaticity ``x`` and ``y`` [CIE 1931],
    its share of ``luminance`` beside the others of the type, 0 where not known, and the dominant
    wavelength in nanometres, None where not known or for a white."""

    function: Function
    x: float
    y: float
    luminance: float = 0.0
    wavelength_nm: float | None = None

    def __post_init__(self) -> None:
        for number in (self.x, self.y):
            if not 0 <= check_finite("chromaticity", number, error=ChartError) <= 1:
                raise ChartError(f"{number:g} is not a chromaticity. Use 0 to 1.")
        if not 0 <= check_finite("luminance", self.luminance, error=ChartError) <= 1e9:
            raise ChartError(f"{self.luminance:g} is not a luminance. Use 0 or more.")
        nanometres = self.wavelength_nm
        if (
            nanometres is not None
            and not 200 <= check_finite("wavelength", nanometres, error=ChartError) <= 1200
        ):
            raise ChartError(f"{nanometres:g} nm is not a wavelength of light. Use 200 to 1200.")


def check_rdm_model(text: str) -> str:
    """A maker and a model as RDM tells them [E1.20], such as ``7A70:0102``; empty for none.
    ``ChartError`` says what is accepted."""
    maker, colon, model = text.partition(":")
    digits = set("0123456789ABCDEF")
    if text and not (colon and len(maker) == len(model) == 4 and {*maker, *model} <= digits):
        raise ChartError(
            f"“{text[:20]}” is not a model over RDM. Use four hexadecimal digits of the maker and "
            "four of the model, such as 7A70:0102."
        )
    return text


class SetterKind(StrEnum):
    """How a start address is set at the fixture."""

    MENU = "menu"
    SWITCHES = "switches"
    ROTARY = "rotary"
    RDM = "rdm"
    FIXED = "fixed"


@dataclass(frozen=True, slots=True)
class Setter:
    """How an address is set, and which addresses can be.

    ``switches`` carry the address, weights 1, 2, 4 …; ``zero_based`` when they show address - 1.
    ``fixed_on`` and ``fixed_off`` are further switches that must stand so. ``highest`` is the
    highest number of a rotary, or the one address of a fixed setter. ``one_at_a_time`` where all on
    the cable would take an address. ``shown_before`` are up to two letters that its display shows
    before the number, such as the d of d001.
    """

    kind: SetterKind = SetterKind.MENU
    switches: int = 9
    zero_based: bool = False
    fixed_on: tuple[int, ...] = ()
    fixed_off: tuple[int, ...] = ()
    on_is_up: bool = True
    first_is_left: bool = True
    highest: int = SLOTS
    steps: str = ""
    confirm: str = ""
    display_flips: bool = False
    one_at_a_time: bool = False
    shown_before: str = ""

    def __post_init__(self) -> None:
        if not 1 <= self.switches <= 16:
            raise ChartError(f"{self.switches} address switches are not possible. Use 1 to 16.")
        clash = {*self.fixed_on, *self.fixed_off} & set(range(1, self.switches + 1))
        if clash:
            raise ChartError(
                f"Switch {min(clash)} carries the address and cannot be fixed as well."
            )
        for switch in (*self.fixed_on, *self.fixed_off):
            check_whole("switch", switch, 1, MOST_SWITCHES, error=ChartError)
        most = SLOTS if self.kind is SetterKind.FIXED else MOST_ROTARY
        check_whole("highest address of a setter", self.highest, 1, most, error=ChartError)
        _words(("description of the setter", self.steps), ("way of confirming", self.confirm))
        if len(self.shown_before) > 2 or set(self.shown_before.lower()) - set(SHOWN_LETTERS):
            raise ChartError(
                f"“{self.shown_before[:20]}” cannot stand before the number. Use up to two of "
                f"{' '.join(SHOWN_LETTERS)}, or none."
            )

    @property
    def settable(self) -> tuple[int, int]:
        """Lowest and highest start address that can be set."""
        if self.kind is SetterKind.FIXED:
            return self.highest, self.highest
        if self.kind is SetterKind.ROTARY:
            return 1, min(SLOTS, self.highest)
        if self.kind is SetterKind.SWITCHES:
            held: int = 2**self.switches - 1
            return 1, min(SLOTS, held + 1 if self.zero_based else held)
        return 1, SLOTS


@dataclass(frozen=True, slots=True)
class Profile:
    """A fixture type. ``weight_kg`` in kilograms and ``power_w`` in watts, None where not known.

    ``revision`` counts the changes of its chart in the library; a show keeps the one that it was
    planned with. ``unit_load`` is what it puts on the line [EIA-485]; ``passes_unpowered`` whether
    the signal goes on through it when it has no power. ``battery_hours`` is how long it runs on its
    battery, ``charge_hours`` how long an empty one charges, None without a battery; ``charge_note``
    what is odd about it (charges only with its main switch on), ``battery_stays`` where it is built
    in and can only be charged. ``emitters`` are what its maker
    measured of its light; ``rdm_model`` is how it names itself over RDM, such as ``7A70:0102``.
    """

    id: str
    maker: str
    model: str
    modes: tuple[Mode, ...]
    kind: str = ""
    setter: Setter = Setter()
    listens: str = ""
    no_signal: str = ""
    connectors_in: str = ""
    connectors_out: str = ""
    rdm: bool = False
    wireless: bool = False
    weight_kg: float | None = None
    power_w: int | None = None
    revision: int = 1
    unit_load: float = 1.0
    passes_unpowered: bool = True
    battery_hours: float | None = None
    charge_hours: float | None = None
    charge_note: str = ""
    battery_stays: bool = False
    source: str = ""
    emitters: tuple[Emitter, ...] = ()
    rdm_model: str = ""

    def __post_init__(self) -> None:
        check_id("chart id", self.id, error=ChartError)
        check_rdm_model(self.rdm_model)
        _words(
            ("maker", self.maker),
            ("model", self.model),
            ("kind", self.kind),
            ("need for DMX", self.listens),
            ("behaviour without signal", self.no_signal),
            ("connector", self.connectors_in),
            ("connector", self.connectors_out),
            ("note on charging", self.charge_note),
            ("source of a chart", self.source),
        )
        check_whole("revision", self.revision, 1, 2**31 - 1, error=ChartError)
        if not 0 <= check_finite("unit load", self.unit_load, error=ChartError) <= 32:
            raise ChartError(f"{self.unit_load:g} is not a unit load of a fixture. Use 0 to 32.")
        for hours in (self.battery_hours, self.charge_hours):
            if (
                hours is not None
                and not 0 < check_finite("number of hours", hours, error=ChartError) <= MOST_HOURS
            ):
                raise ChartError(
                    f"{hours:g} h is not a time of a battery. Use more than 0, up to {MOST_HOURS}."
                )
        if self.power_w is not None:
            check_whole("power in watts", self.power_w, 0, 1_000_000, error=ChartError)
        if self.weight_kg is not None:
            check_finite("weight", self.weight_kg, error=ChartError)
            check_whole("weight in kilograms", int(self.weight_kg), 0, 100_000, error=ChartError)
        names: set[str] = set()
        for mode in self.modes:
            if mode.name in names:
                raise ChartError(
                    f"{self.title} has two modes named “{mode.name}”: names tell modes apart."
                )
            names.add(mode.name)

    @property
    def title(self) -> str:
        """Maker and model, as a person would say it."""
        return f"{self.maker} {self.model}".strip() or "Unnamed fixture"

    def mode(self, name: str) -> Mode | None:
        """The mode of that name, or None."""
        return next((mode for mode in self.modes if mode.name == name), None)
