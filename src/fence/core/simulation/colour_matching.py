"""Matching a colour with the emitters that a fixture has, so that unlike fixtures come as near to
each other as can be.

The model is simple, and the same for all: each emitter has one colour (CIE 1931 x and y) and a
brightness at full beside that of red; light adds up; a filter takes out its own third of the light.
Real emitters differ by make and age, so what comes out of it is a start for the eye.

How far off is the distance on the CIE 1976 diagram (u', v'): about 0.004 is seen beside each other
on a white wall. On that diagram a mix lies between its emitters, so what can be reached is the
polygon around them, and the nearest point of it is found exactly.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import hypot

from fence.core.charts.vocabulary import EMITTERS, FILTERS
from fence.core.model.errors import EditError
from fence.core.model.profile import Byte, Channel, Emitter, Function, Mode
from fence.core.simulation.bringing import levels_for

Point = tuple[float, float]
"""u' and v'."""
XYZ = tuple[float, float, float]

Model = Mapping[Function, tuple[float, float, float]]
MODEL: Model = {
    Function.RED: (0.690, 0.308, 1.0),
    Function.GREEN: (0.190, 0.720, 2.4),
    Function.BLUE: (0.140, 0.050, 0.45),
    Function.WHITE: (0.313, 0.329, 4.0),
    Function.AMBER: (0.580, 0.418, 1.4),
    Function.LIME: (0.410, 0.545, 4.5),
    Function.UV: (0.170, 0.012, 0.06),
}
"""Of each emitter: x, y, and how bright it is at full, red being 1. Practice, not standard."""
Trim = Mapping[Function, float]
"""How bright the emitters of one type really are, as seen by eye beside the model: 2 is twice as
bright."""
LEAST_TRIM, MOST_TRIM = 0.1, 10.0
LAMP = (0.345, 0.352, 6.0)
"""A fixture without colours of its own."""
LOWEST, HIGHEST = 1700, 20_000
"""Kelvin that are accepted."""
SAME, NEAR = 0.004, 0.02
"""Up to which distance two colours pass as the same, and as near."""


def xyz_of(x: float, y: float, bright: float) -> XYZ:
    """The light of an emitter from its colour and brightness [CIE 015]."""
    return x * bright / y, bright, (1 - x - y) * bright / y


def point_of(light: XYZ) -> Point | None:
    """Where a light lies on the diagram; None for darkness."""
    total = light[0] + 15 * light[1] + 3 * light[2]
    return (4 * light[0] / total, 9 * light[1] / total) if total > 1e-12 else None


def of_kelvin(kelvin: float) -> Point:
    """White of a colour temperature, 1,700 to 20,000 K, on the curve of a black body (approximated
    after Kim)."""
    if not LOWEST <= kelvin <= HIGHEST:
        raise EditError(
            f"{kelvin:g} K is not a colour temperature here. Use {LOWEST} to {HIGHEST} K."
        )
    t = 1e3 / kelvin
    if kelvin <= 4000:
        x = -0.2661239 * t**3 - 0.2343589 * t**2 + 0.8776956 * t + 0.179910
    else:
        x = -3.0258469 * t**3 + 2.1070379 * t**2 + 0.2226347 * t + 0.240390
    if kelvin <= 2222:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    elif kelvin <= 4000:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    else:
        y = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    found = point_of(xyz_of(x, y, 1.0))
    assert found is not None
    return found


def of_rgb(red: int, green: int, blue: int) -> Point:
    """A colour of a screen, 0 to 255 each [IEC 61966-2-1]; ``EditError`` for black, which has no
    colour."""

    def linear(value: int) -> float:
        part = value / 255
        return part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4

    r, g, b = map(linear, (red, green, blue))
    found = point_of(
        (
            0.4124 * r + 0.3576 * g + 0.1805 * b,
            0.2126 * r + 0.7152 * g + 0.0722 * b,
            0.0193 * r + 0.1192 * g + 0.9505 * b,
        )
    )
    if found is None:
        raise EditError("Black is not a colour to match: choose a lighter one.")
    return found


def of_xy(x: float, y: float) -> Point:
    """A measured colour, x and y [CIE 1931]; ``EditError`` for what lies outside of all colours."""
    if not (0 <= x <= 0.75 and 0.001 <= y <= 0.85 and x + y <= 1):
        raise EditError(
            f"x {x:g}, y {y:g} is not a colour. Use x 0 to 0.75 and y 0 to 0.85, together up to 1."
        )
    found = point_of(xyz_of(x, y, 1.0))
    assert found is not None
    return found


@dataclass(frozen=True, slots=True)
class Match:
    """How a mode comes nearest to a colour.

    ``levels`` (0 to 255) are those of its channels by offset, ``point`` is where that lies on the
    diagram, ``off`` how far off it stays, and ``bright`` how bright it is, full red being 1.
    """

    levels: Mapping[int, int]
    point: Point
    off: float
    bright: float

    @property
    def words(self) -> str:
        """How far off, for a person."""
        if self.off <= SAME:
            return "as good as the same"
        return "near" if self.off <= NEAR else "visibly off"


def check_trim(factor: float) -> float:
    """Give a correction back; ``EditError`` for one that cannot be."""
    if not LEAST_TRIM <= factor <= MOST_TRIM:
        raise EditError(
            f"{factor:g} is not a correction. Use {LEAST_TRIM:g} to {MOST_TRIM:g}, 1 for none."
        )
    return factor


def model_with(trim: Trim, measured: Sequence[Emitter] = ()) -> Model:
    """The model of emitters with what the maker of one type measured, and its corrections by eye.
    Where luminances are known they count beside each other; else the model's brightness does."""
    model = dict(MODEL)
    told = [one for one in measured if one.function in MODEL and one.y > 0]
    bright = {one.function: one.luminance for one in told if one.luminance > 0}
    usual = sum(MODEL[function][2] for function in bright)
    scale = usual / sum(bright.values()) if bright else 1.0
    for one in told:
        own = bright.get(one.function, 0.0) * scale or MODEL[one.function][2]
        model[one.function] = (one.x, one.y, own)
    return {
        function: (x, y, own * trim.get(function, 1.0)) for function, (x, y, own) in model.items()
    }


def match(
    mode: Mode, target: Point, trim: Trim | None = None, measured: Sequence[Emitter] = ()
) -> Match | None:
    """The levels at which a mode comes nearest to a colour; None for one without light.

    Of all mixes that are equally near it takes a bright one. Fine bytes follow their coarse ones.
    ``trim`` corrects the model for the emitters of this type, which are as their maker
    ``measured`` them where that is known.
    """
    model = model_with(trim or {}, measured) if trim or measured else MODEL
    channels = [channel for part in mode.parts for channel in part.channels]
    functions = {channel.function for channel in channels}
    emitters = [function for function in MODEL if function in functions]
    if emitters:
        weights = _brightest(model, emitters, target)
        found = _settled(model, emitters, weights, target)
        by_function = dict(zip(emitters, found, strict=True))
    elif functions >= FILTERS:
        by_function = _filtered(target)
    elif Function.CCT in functions:
        return _tuned(mode, channels, target)
    elif functions & {Function.DIMMER, Function.SHUTTER}:
        by_function = {}
    else:
        return None
    levels = {
        place: by_function[c.function]
        for place, c in enumerate(channels)
        if c.function in by_function
    }
    light = _light(model, by_function) if emitters else _through(by_function)
    return _told(levels, light, target)


def _told(levels: Mapping[int, int], light: XYZ, target: Point) -> Match:
    point = point_of(light) or (0.0, 0.0)
    return Match(dict(levels), point, hypot(point[0] - target[0], point[1] - target[1]), light[1])


def _light(model: Model, levels: Mapping[Function, float]) -> XYZ:
    """What emitters give together; levels from 0 to 255."""
    parts = [
        [share * level / 255 for share in xyz_of(*model[function])]
        for function, level in levels.items()
    ]
    return sum(p[0] for p in parts), sum(p[1] for p in parts), sum(p[2] for p in parts)


def distance(levels: Mapping[Function, float], target: Point, model: Model = MODEL) -> float:
    """How far a mix of emitters is off; far for darkness."""
    point = point_of(_light(model, levels))
    return hypot(point[0] - target[0], point[1] - target[1]) if point else 9.0


# ---- emitters: the nearest point of the polygon around them


def _heaviness(model: Model, function: Function) -> float:
    """How much an emitter at full pulls a mix towards itself on the diagram."""
    light = xyz_of(*model[function])
    return light[0] + 15 * light[1] + 3 * light[2]


def _points(model: Model, emitters: Sequence[Function]) -> list[Point]:
    found = [point_of(xyz_of(*model[function])) for function in emitters]
    return [point for point in found if point is not None]


def _brightest(model: Model, emitters: Sequence[Function], target: Point) -> list[float]:
    """How far each emitter is up, 0 to 1, for the nearest colour: the sum of all ways to reach it,
    scaled to full."""
    points = _points(model, emitters)
    ways = [
        way
        for three in combinations(range(len(points)), 3)
        if (way := _inside(points, three, target))
    ]
    if not ways:
        ways = [_on_the_edge(points, target)]
    totals = [0.0] * len(points)
    best, brightest = ways[0], -1.0
    for way in ways:
        for place, share in way.items():
            totals[place] += share
    for way in (*ways, dict(enumerate(totals))):
        ups = _scaled(model, emitters, way)
        bright = sum(model[f][2] * up for f, up in zip(emitters, ups, strict=True))
        if bright > brightest:
            best, brightest = way, bright
    return _scaled(model, emitters, best)


def _scaled(model: Model, emitters: Sequence[Function], shares: Mapping[int, float]) -> list[float]:
    """Shares of a mix as levels, the highest at full."""
    ups = [
        shares.get(place, 0.0) / _heaviness(model, function)
        for place, function in enumerate(emitters)
    ]
    most = max(ups)
    return [up / most for up in ups] if most > 0 else ups


def _inside(
    points: Sequence[Point], three: tuple[int, int, int], target: Point
) -> dict[int, float] | None:
    """The shares of three emitters that give a colour between them; None where it is not."""
    (ax, ay), (bx, by), (cx, cy) = (points[place] for place in three)
    area = (by - cy) * (ax - cx) + (cx - bx) * (ay - cy)
    if abs(area) < 1e-12:
        return None
    first = ((by - cy) * (target[0] - cx) + (cx - bx) * (target[1] - cy)) / area
    second = ((cy - ay) * (target[0] - cx) + (ax - cx) * (target[1] - cy)) / area
    shares = (first, second, 1 - first - second)
    return dict(zip(three, shares, strict=True)) if min(shares) >= -1e-9 else None


def _on_the_edge(points: Sequence[Point], target: Point) -> dict[int, float]:
    """The shares of the one or two emitters whose mix is nearest to a colour outside."""
    best: dict[int, float] = {0: 1.0}
    least = hypot(points[0][0] - target[0], points[0][1] - target[1])
    for one, other in combinations(range(len(points)), 2):
        (ax, ay), (bx, by) = points[one], points[other]
        long = (bx - ax) ** 2 + (by - ay) ** 2
        along = (
            ((target[0] - ax) * (bx - ax) + (target[1] - ay) * (by - ay)) / long if long else 0.0
        )
        along = min(1.0, max(0.0, along))
        off = hypot(ax + along * (bx - ax) - target[0], ay + along * (by - ay) - target[1])
        if off < least:
            best, least = {one: 1 - along, other: along}, off
    return best


def _settled(
    model: Model, emitters: Sequence[Function], ups: Sequence[float], target: Point
) -> list[int]:
    """Whole levels, moved by single steps as long as that comes nearer: rounding alone could pull a
    mix aside. The strongest stays at full, so that nothing gets darker for what nobody sees."""
    levels = [round(255 * up) for up in ups]
    strongest = levels.index(max(levels))
    off = distance(dict(zip(emitters, levels, strict=True)), target, model)
    better = True
    while better:
        better = False
        for place in range(len(levels)):
            for step in (-1, 1):
                level = levels[place] + step
                if place == strongest or not 0 <= level <= 255:
                    continue
                trial = [*levels[:place], level, *levels[place + 1 :]]
                found = distance(dict(zip(emitters, trial, strict=True)), target, model)
                if found < off - 1e-9:
                    levels, off, better = trial, found, True
    return levels


# ---- filters, tunable white


_TO_RGB = ((3.2406, -1.5372, -0.4986), (-0.9689, 1.8758, 0.0415), (0.0557, -0.2040, 1.0570))
_FROM_RGB = ((0.4124, 0.3576, 0.1805), (0.2126, 0.7152, 0.0722), (0.0193, 0.1192, 0.9505))
TAKES = {Function.CYAN: 0, Function.MAGENTA: 1, Function.YELLOW: 2}
"""Which third of the light a filter takes out: red, green, blue."""


def _turned(matrix: Sequence[Sequence[float]], light: Sequence[float]) -> XYZ:
    first, second, third = (
        sum(k * part for k, part in zip(row, light, strict=True)) for row in matrix
    )
    return first, second, third


def _filtered(target: Point) -> dict[Function, int]:
    """How far each filter is in: what the lamp has too much of, beside the third that the colour
    needs most of."""
    u, v = target
    wanted = _turned(_TO_RGB, (9 * u / (4 * v), 1.0, (12 - 3 * u - 20 * v) / (4 * v)))
    lamp = _turned(_TO_RGB, xyz_of(*LAMP))
    shares = [max(0.0, want) / have for want, have in zip(wanted, lamp, strict=True)]
    most = max(shares)
    return {function: 255 - round(255 * shares[place] / most) for function, place in TAKES.items()}


def _through(levels: Mapping[Function, float]) -> XYZ:
    """The light of the lamp through filters."""
    parts = list(_turned(_TO_RGB, xyz_of(*LAMP)))
    for function, place in TAKES.items():
        parts[place] *= 1 - levels.get(function, 0) / 255
    return _turned(_FROM_RGB, parts)


def _tuned(mode: Mode, channels: Sequence[Channel], target: Point) -> Match:
    """The level of a colour temperature that comes nearest."""
    place = next(
        at
        for at, c in enumerate(channels)
        if c.function is Function.CCT and c.byte is not Byte.FINE
    )
    best: Match | None = None
    for level in range(256):
        kelvin = _kelvin(channels[place], level)
        if kelvin is None or not LOWEST <= kelvin <= HIGHEST:
            continue
        point = of_kelvin(kelvin)
        off = hypot(point[0] - target[0], point[1] - target[1])
        if best is None or off < best.off:
            best = Match({place: level}, point, off, LAMP[2])
    return best or _told({}, xyz_of(*LAMP), target)


def _kelvin(channel: Channel, level: int) -> float | None:
    """The colour temperature that a level gives, from the range of the chart."""
    for found in channel.ranges:
        if (
            found.first <= level <= found.last
            and found.low is not None
            and found.high is not None
            and found.unit == "K"
        ):
            along = (level - found.first) / max(1, found.last - found.first)
            return found.low + along * (found.high - found.low)
    return None


def levels_with(mode: Mode, found: Match) -> bytes:
    """The levels of all slots of a mode: open and at full, with the colour of a match."""
    levels = bytearray(levels_for(mode))
    channels = [channel for part in mode.parts for channel in part.channels]
    for place, channel in enumerate(channels):
        if channel.function in EMITTERS | FILTERS:
            levels[place] = found.levels.get(place, 0)
        elif place in found.levels:
            levels[place] = found.levels[place]
    return bytes(levels)
