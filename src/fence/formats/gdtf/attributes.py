"""What channels do in the words of the standard: its attributes beside Fence's functions.

The names of attributes and their units are those of DIN SPEC 15800, Annex A. ``(n)`` in a name
stands for a number. What has no attribute there is written with one of its own, as the standard
allows.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass

from fence.core.model.profile import Function

UNUSED = "NoFeature"
"""The attribute of a slot that does nothing."""


@dataclass(frozen=True, slots=True)
class Attribute:
    """An attribute as it is written: its name, a short one, and the feature that it belongs to."""

    name: str
    pretty: str
    feature: str


WRITTEN: dict[Function, Attribute] = {
    Function.DIMMER: Attribute("Dimmer", "Dim", "Dimmer.Dimmer"),
    Function.RED: Attribute("ColorAdd_R", "R", "Color.RGB"),
    Function.GREEN: Attribute("ColorAdd_G", "G", "Color.RGB"),
    Function.BLUE: Attribute("ColorAdd_B", "B", "Color.RGB"),
    Function.WHITE: Attribute("ColorAdd_W", "W", "Color.RGB"),
    Function.AMBER: Attribute("ColorAdd_RY", "A", "Color.RGB"),
    Function.LIME: Attribute("ColorAdd_GY", "L", "Color.RGB"),
    Function.UV: Attribute("ColorAdd_UV", "UV", "Color.RGB"),
    Function.CYAN: Attribute("ColorSub_C", "C", "Color.RGB"),
    Function.MAGENTA: Attribute("ColorSub_M", "M", "Color.RGB"),
    Function.YELLOW: Attribute("ColorSub_Y", "Y", "Color.RGB"),
    Function.CCT: Attribute("CTC", "CTC", "Color.Color"),
    Function.TINT: Attribute("Tint", "Tint", "Color.Color"),
    Function.PAN: Attribute("Pan", "P", "Position.PanTilt"),
    Function.TILT: Attribute("Tilt", "T", "Position.PanTilt"),
    Function.ZOOM: Attribute("Zoom", "Zoom", "Focus.Focus"),
    Function.FOCUS: Attribute("Focus1", "Focus1", "Focus.Focus"),
    Function.IRIS: Attribute("Iris", "Iris", "Beam.Beam"),
    Function.FROST: Attribute("Frost1", "Frost1", "Beam.Beam"),
    Function.GOBO: Attribute("Gobo1", "G1", "Gobo.Gobo"),
    Function.GOBO_ROTATION: Attribute("Gobo1Pos", "G1 <>", "Gobo.Gobo"),
    Function.PRISM: Attribute("Prism1", "Prism1", "Beam.Beam"),
    Function.COLOUR_WHEEL: Attribute("Color1", "C1", "Color.Color"),
    Function.SHUTTER: Attribute("Shutter1", "Sh1", "Beam.Beam"),
    Function.SPEED: Attribute("PositionMSpeed", "Pos Speed", "Control.Control"),
    Function.PROGRAM: Attribute("Function", "Function", "Control.Control"),
    Function.RESET: Attribute("FixtureGlobalReset", "Reset", "Control.Control"),
    Function.FUNCTION_SPEED: Attribute("Effects1Rate", "FX1 Rate", "Beam.Beam"),
    Function.FAN: Attribute("Fans", "Fans", "Control.Control"),
    Function.SOUND: Attribute("SoundSensitivity", "Sound", "Control.Control"),
    Function.PIXEL: Attribute("Pixel", "Pixel", "Control.Control"),
    Function.OUTPUT: Attribute("PowerOutput", "Output", "Control.Control"),
    Function.OTHER: Attribute("Other", "Other", "Control.Control"),
}
READ_ALSO: dict[str, Function] = {
    "ColorAdd_C": Function.CYAN,
    "ColorAdd_M": Function.MAGENTA,
    "ColorAdd_Y": Function.YELLOW,
    "ColorAdd_WW": Function.WHITE,
    "ColorAdd_CW": Function.WHITE,
    "CTO": Function.CCT,
    "CTB": Function.CCT,
    "Color(n)WheelIndex": Function.COLOUR_WHEEL,
    "Color(n)WheelSpin": Function.COLOUR_WHEEL,
    "Gobo(n)PosRotate": Function.GOBO_ROTATION,
    "Gobo(n)PosShake": Function.GOBO_ROTATION,
    "Gobo(n)SelectSpin": Function.GOBO,
    "Gobo(n)SelectShake": Function.GOBO,
    "Gobo(n)WheelIndex": Function.GOBO,
    "Gobo(n)WheelSpin": Function.GOBO,
    "Prism(n)SelectSpin": Function.PRISM,
    "Shutter(n)Strobe": Function.SHUTTER,
    "Shutter(n)StrobePulse": Function.SHUTTER,
    "Shutter(n)StrobePulseClose": Function.SHUTTER,
    "Shutter(n)StrobePulseOpen": Function.SHUTTER,
    "Shutter(n)StrobeRandom": Function.SHUTTER,
    "Shutter(n)StrobeRandomPulse": Function.SHUTTER,
    "Shutter(n)StrobeEffect": Function.SHUTTER,
    "StrobeDuration": Function.SHUTTER,
    "StrobeRate": Function.SHUTTER,
    "StrobeFrequency": Function.SHUTTER,
    "StrobeModeShutter": Function.SHUTTER,
    "StrobeModeStrobe": Function.SHUTTER,
    "Focus(n)Distance": Function.FOCUS,
    "ColorMacro(n)": Function.PROGRAM,
    "ColorEffects(n)": Function.PROGRAM,
    "PositionEffect": Function.PROGRAM,
    "Effects(n)": Function.PROGRAM,
    "ColorMacro(n)Rate": Function.FUNCTION_SPEED,
    "PositionEffectRate": Function.FUNCTION_SPEED,
    "GlobalMSpeed": Function.SPEED,
    "Fan(n)": Function.FAN,
    "Blower(n)": Function.FAN,
    "Fog(n)": Function.OUTPUT,
    "Haze(n)": Function.OUTPUT,
}
"""Attributes that are read as a function that is written with another one."""
NAMES: dict[str, str] = {
    "ColorAdd_WW": "warm white",
    "ColorAdd_CW": "cool white",
    "CTO": "CTO",
    "CTB": "CTB",
}
"""What is told apart by a name where one function has several attributes."""
ALONE = {"Fine_": "fine", "Coarse_": "coarse"}
"""How a byte is written whose other half is not there."""
UNITS = {
    "K": "Temperature",
    "%": "Percent",
    "degrees": "Angle",
    "°": "Angle",
    "Hz": "Frequency",
    "rpm": "AngularSpeed",
    "s": "Time",
    "m": "Length",
    "W": "Power",
    "nm": "WaveLength",
}
"""Units of ranges beside the physical units of attributes."""
UNITS_READ = {
    "Temperature": "K",
    "Percent": "%",
    "Angle": "degrees",
    "Frequency": "Hz",
    "AngularSpeed": "rpm",
    "Time": "s",
    "Length": "m",
    "Power": "W",
    "WaveLength": "nm",
}


def function_of(attribute: str) -> Function | None:
    """What an attribute does in Fence's words; None for one without."""
    found = READ_BY_NAME.get(attribute)
    if found is None:
        found = READ_BY_NAME.get(re.sub(r"\d+", "(n)", attribute, count=1))
    return found


def _any_number(name: str) -> str:
    return re.sub(r"(?<=[a-z])1(?=$|[A-Z])", "(n)", name)


READ_BY_NAME: dict[str, Function] = {
    **READ_ALSO,
    **{_any_number(one.name): function for function, one in WRITTEN.items()},
    **{one.name: function for function, one in WRITTEN.items()},
}


LETTERS = re.compile(r"[^A-Za-z0-9 \"#%'()*+\-/:;<=>@_`]")
"""What stands in no name [DIN SPEC 15800, Annex C]."""
INSTEAD = {
    "–": "-",
    "—": "-",
    "’": "'",
    "“": '"',
    "”": '"',
    "°": " deg",
    ",": ";",
    ".": "",
    "ß": "ss",
    "æ": "ae",
    "Æ": "AE",
    "ø": "o",
    "Ø": "O",
    "ł": "l",
    "Ł": "L",
}
POINT = re.compile(r"(?<=\d)[.,](?=\d)")
"""The point of a number; a name has none, since it parts the names of a path."""


def plain_name(text: str) -> str:
    """A text with only those letters that a name of the standard may have; the nearest for others,
    as far as there is one."""
    text = POINT.sub("'", text)
    for letter, other in INSTEAD.items():
        text = text.replace(letter, other)
    spread = unicodedata.normalize("NFKD", text)
    return " ".join(LETTERS.sub("", spread).split())
