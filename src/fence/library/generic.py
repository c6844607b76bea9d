"""Types that are everybody's: what a fixture without a chart of its own usually is.

They say nothing of weight, power or connectors: those are read at the fixture.
"""

from __future__ import annotations

from fence.core.model.profile import Byte, Channel, Function, Mode, Profile, Range
from fence.library.pieces import DIMMER, MENU, PAN_TILT, RGB, RGBW, SHUTTER, cells, mode, plain

F = Function

MAKER = "Generic"
LEVELS_OF_A_RELAY = (Range(0, 127, "off"), Range(128, 255, "on"))
WHEEL = Channel(F.COLOUR_WHEEL)
GOBO = Channel(F.GOBO)


def _type(model: str, kind: str, *modes: Mode) -> Profile:
    slug = "-".join(model.lower().replace(",", "").split())
    return Profile(f"generic-{slug}", MAKER, model, modes, kind=kind, setter=MENU)


def _fine(function: Function) -> tuple[Channel, ...]:
    coarse = Channel(function, byte=Byte.COARSE, highlight=255)
    return coarse, Channel(function, byte=Byte.FINE, highlight=255)


def _pixels(count: int, *functions: Function) -> Mode:
    letters = "".join(str(function)[0].upper() for function in functions)
    return mode(f"{count} × {letters}", cells(count, *functions))


def generic_profiles() -> tuple[Profile, ...]:
    """The generic types, each with the modes that such fixtures usually have."""
    return (
        _type(
            "dimmer",
            "Dimmer",
            mode("1 channel", DIMMER),
            mode("16 bit", _fine(F.DIMMER)),
        ),
        _type("relay", "Relay", mode("1 channel", Channel(F.OUTPUT, ranges=LEVELS_OF_A_RELAY))),
        _type(
            "LED",
            "LED wash",
            mode("RGB", plain(*RGB)),
            mode("RGBW", plain(*RGBW)),
            mode("RGBA", plain(*RGB, F.AMBER)),
            mode("RGBAW+UV", plain(*RGB, F.AMBER, F.WHITE, F.UV)),
            mode("Dimmer RGB", DIMMER, plain(*RGB)),
            mode("Dimmer RGBW", DIMMER, plain(*RGBW)),
            mode("Dimmer RGBAW+UV", DIMMER, plain(*RGB, F.AMBER, F.WHITE, F.UV)),
            mode("Dimmer strobe RGBW", DIMMER, SHUTTER, plain(*RGBW)),
        ),
        _type(
            "CMY",
            "Colour mixer",
            mode("CMY", plain(F.CYAN, F.MAGENTA, F.YELLOW)),
            mode("Dimmer CMY", DIMMER, plain(F.CYAN, F.MAGENTA, F.YELLOW)),
        ),
        _type(
            "tunable white",
            "White LED",
            mode("Warm cold", Channel(F.WHITE, "warm white"), Channel(F.WHITE, "cold white")),
            mode("Dimmer CCT", DIMMER, Channel(F.CCT)),
        ),
        _type(
            "hazer",
            "Hazer",
            mode("1 channel", Channel(F.OUTPUT, "haze")),
            mode("2 channel", Channel(F.OUTPUT, "haze"), Channel(F.FAN)),
        ),
        _type(
            "moving head",
            "Moving head",
            mode("8 channel", PAN_TILT, DIMMER, SHUTTER, WHEEL, GOBO),
            mode(
                "12 channel",
                PAN_TILT,
                Channel(F.SPEED, "pan and tilt speed"),
                DIMMER,
                SHUTTER,
                WHEEL,
                GOBO,
                Channel(F.GOBO_ROTATION),
                Channel(F.PRISM),
                Channel(F.FOCUS),
            ),
        ),
        _type(
            "pixel bar",
            "Pixel bar",
            *(_pixels(count, *RGB) for count in (4, 8, 10, 12, 16, 18, 24)),
            *(_pixels(count, *RGBW) for count in (8, 12, 16)),
        ),
        _type(
            "media strip",
            "Pixel strip",
            *(_pixels(count, *RGB) for count in (30, 50, 60, 72, 100, 144, 170)),
            *(_pixels(count, *RGBW) for count in (30, 60, 128)),
        ),
    )
