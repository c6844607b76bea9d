"""Charts as they can be copied out of manuals and spreadsheets, in many styles, with what must come out.

What must come out is written short: one word a channel, ``+`` behind a fine byte, ``#2`` for cell 2.
"""

from __future__ import annotations

from fence.core.model.profile import Function

F = Function
SHORT = {
    "d": F.DIMMER, "r": F.RED, "g": F.GREEN, "b": F.BLUE, "w": F.WHITE, "a": F.AMBER, "uv": F.UV, "lime": F.LIME,
    "c": F.CYAN, "m": F.MAGENTA, "y": F.YELLOW, "cct": F.CCT, "tint": F.TINT, "pan": F.PAN, "tilt": F.TILT,
    "zoom": F.ZOOM, "focus": F.FOCUS, "iris": F.IRIS, "frost": F.FROST, "gobo": F.GOBO, "turn": F.GOBO_ROTATION,
    "prism": F.PRISM, "wheel": F.COLOUR_WHEEL, "sh": F.SHUTTER, "speed": F.SPEED, "prog": F.PROGRAM, "sound": F.SOUND,
    "reset": F.RESET, "fspeed": F.FUNCTION_SPEED, "fan": F.FAN, "out": F.OUTPUT, "other": F.OTHER,
}  # fmt: skip

CORPUS: dict[str, tuple[str, list[str]]] = {
    "plain list": ("1  Red  0-255\n2  Green  0-255\n3  Blue  0-255", ["r g b"]),
    "CH without a blank": ("CH1 Dimmer 0-100%\nCH2 Red 0-100%\nCH3 Green 0-100%\nCH4 Blue 0-100%", ["d r g b"]),
    "colons and ranges behind": (
        "1: Dimmer\n2: Strobe 0-9 off, 10-255 slow to fast\n3: Red\n4: Green\n5: Blue", ["d sh r g b"]),
    "tabs with header": (
        "Channel\tFunction\tValue\n1\tDimmer\t0-255\n2\tRed\t0-255\n3\tGreen\t0-255\n4\tBlue\t0-255\n5\tWhite\t0-255",
        ["d r g b w"]),
    "commas with header": ("Channel,Function,Range\n1,Pan,0-255\n2,Tilt,0-255\n3,Dimmer,0-255", ["pan tilt d"]),
    "bars": ("| 1 | Red | 0-255 |\n| 2 | Green | 0-255 |", [""]),
    "runs of blanks": (
        "Ch   Function        Range\n1    Intensity       0-255\n2    Color temp      0-255\n3    Strobe          0-255",
        ["d cct sh"]),
    "a mode a column, numbers first": (
        "4ch 7ch 12ch Function\n1 1 1 Dimmer\n2 2 2 Red\n3 3 3 Green\n4 4 4 Blue\n- 5 5 White\n- 6 6 Strobe\n- 7 7 Program\n"
        "- - 8 Pan\n- - 9 Pan fine\n- - 10 Tilt\n- - 11 Tilt fine\n- - 12 Pan/Tilt speed",
        ["d r g b", "d r g b w sh prog", "d r g b w sh prog pan pan+ tilt tilt+ speed"]),
    "a mode a column, function first": (
        "Function  3CH  5CH\nMaster dimmer  -  1\nRed  1  2\nGreen  2  3\nBlue  3  4\nStrobe  -  5", ["r g b", "d r g b sh"]),
    "a mode a column, tabs and empty cells": (
        "Function\t2 ch\t4 ch\nDimmer\t1\t1\nCTO\t2\t3\nDimmer fine\t\t2\nShutter\t\t4", ["d cct", "d d+ cct sh"]),
    "mode columns in bars": (
        "| 3CH | 6CH | Function |\n| 1 | 2 | Red |\n| 2 | 3 | Green |\n| 3 | 4 | Blue |\n| - | 1 | Dimmer |\n"
        "| - | 5 | Strobe |\n| - | 6 | Sound |", [""]),
    "headings for modes": (
        "3 channel mode\n1 Red\n2 Green\n3 Blue\n\n4 channel mode\n1 Dimmer\n2 Red\n3 Green\n4 Blue", ["r g b", "d r g b"]),
    "headings behind": ("Mode: 2CH\nCH1 Dimmer\nCH2 Strobe\nMode: 1CH\nCH1 Dimmer", ["d sh", "d"]),
    "named modes": (
        "Standard mode (4 channels):\n1 Red\n2 Green\n3 Blue\n4 White\nExtended mode (6 channels):\n"
        "1 Dimmer\n2 Red\n3 Green\n4 Blue\n5 White\n6 Strobe", ["r g b w", "d r g b w sh"]),
    "brackets": ("[3 Channels]\n1 = Red\n2 = Green\n3 = Blue\n[1 Channel]\n1 = Dimmer", ["r g b", "d"]),
    "count starts again": ("1 Red\n2 Green\n3 Blue\n1 Dimmer\n2 Red\n3 Green\n4 Blue", ["r g b", "d r g b"]),
    "fine in words": ("1 Pan\n2 Pan fine\n3 Tilt\n4 Tilt fine\n5 Dimmer", ["pan pan+ tilt tilt+ d"]),
    "16bit in words": ("1 Pan\n2 Pan 16bit\n3 Tilt\n4 Tilt 16bit\n5 Dimmer\n6 Dimmer 16 bit", ["pan pan+ tilt tilt+ d d+"]),
    "MSB and LSB": ("CH 1: Pan (MSB)\nCH 2: Pan (LSB)\nCH 3: Tilt (MSB)\nCH 4: Tilt (LSB)", ["pan pan+ tilt tilt+"]),
    "coarse and fine": ("1. Dimmer coarse\n2. Dimmer fine\n3. Zoom coarse\n4. Zoom fine", ["d d+ zoom zoom+"]),
    "coarse first, fine later": ("1 Pan\n2 Tilt\n3 Fine pan\n4 Fine tilt\n5 Speed", ["pan tilt pan+ tilt+ speed"]),
    "pairs on one line": ("1/2 Pan 16 bit\n3/4 Tilt 16 bit\n5 Pan/Tilt speed\n6 Dimmer", ["pan pan+ tilt tilt+ speed d"]),
    "pairs with a dash": ("1-2 Pan\n3-4 Tilt\n5 Shutter\n6 Dimmer", ["pan pan+ tilt tilt+ sh d"]),
    "ranges below": (
        "1 Dimmer\n2 Shutter\n  0-9 closed\n  10-239 strobe slow to fast\n  240-255 open\n3 Colour wheel\n  0-15 white\n"
        "  16-31 red\n  32-255 rainbow", ["d sh wheel"]),
    "ranges below, three digits, no indent": (
        "CH1 Gobo\n000-009 open\n010-089 gobos 1-8\n090-255 shake\nCH2 Gobo rotation\n000-127 index\n128-255 rotate\nCH3 Prism",
        ["gobo turn prism"]),
    "ranges with long dashes": ("1 Strobe\n0–9: off\n10–255: slow – fast\n2 Red\n3 Green\n4 Blue", ["sh r g b"]),
    "single values between": ("1 Control\n0-99 no function\n100-254 reset\n255 lamp off\n2 Dimmer", ["reset d"]),
    "percent steps": ("1 Mode\n2 Dimmer 0-100%\n3 Shutter 0-4% closed, 5-95% strobe, 96-100% open", ["other d sh"]),
    "Kelvin": ("1 Dimmer 0-100%\n2 CCT 2700K-6500K\n3 Green/Magenta\n4 Fan", ["d cct tint fan"]),
    "degrees": ("1 Pan 0-540°\n2 Tilt 0-270°\n3 Zoom 6° to 48°\n4 Focus\n5 Iris\n6 Frost", ["pan tilt zoom focus iris frost"]),
    "letters": ("1 R\n2 G\n3 B\n4 W\n5 A\n6 UV", ["r g b w a uv"]),
    "letters with cells": ("1 R1\n2 G1\n3 B1\n4 R2\n5 G2\n6 B2", ["r#1 g#1 b#1 r#2 g#2 b#2"]),
    "cells by number behind": ("1 Red 1\n2 Green 1\n3 Blue 1\n4 Red 2\n5 Green 2\n6 Blue 2", ["r#1 g#1 b#1 r#2 g#2 b#2"]),
    "cells before": ("1 Cell 1 Red\n2 Cell 1 Green\n3 Pixel 2 Red\n4 Pixel 2 Green", ["r#1 g#1 r#2 g#2"]),
    "a cluster over many": ("1 Dimmer\n2-7 RGB pixels\n8 Strobe", ["d r#1 g#1 b#1 r#2 g#2 b#2 sh"]),
    "CMY spot": (
        "1 Pan\n2 Pan fine\n3 Tilt\n4 Tilt fine\n5 Cyan\n6 Magenta\n7 Yellow\n8 CTO\n9 Color wheel\n10 Static gobo wheel\n"
        "11 Rotating gobo wheel\n12 Gobo rotation\n13 Prism\n14 Frost\n15 Iris\n16 Zoom\n17 Focus\n18 Shutter\n19 Dimmer\n"
        "20 Dimmer fine\n21 Control",
        ["pan pan+ tilt tilt+ c m y cct wheel gobo gobo turn prism frost iris zoom focus sh d d+ reset"]),
    "bullets": ("• 1 – Master\n• 2 – Red\n• 3 – Green\n• 4 – Blue\n• 5 – Amber", ["d r g b a"]),
    "numbered with brackets": ("1) Red dimmer\n2) Green dimmer\n3) Blue dimmer\n4) Macros\n5) Macro speed", ["r g b prog fspeed"]),
    "the word channel": ("Channel 1 - Haze output\nChannel 2 - Fan speed", ["out fan"]),
    "DMX before": ("DMX 1 Lime\nDMX 2 Red\nDMX 3 Green\nDMX 4 Blue", ["lime r g b"]),
    "leading zeros": ("001 Dimmer\n002 Strobe\n003 Auto programs\n004 Program speed\n005 Sound active",
                      ["d sh prog fspeed sound"]),
    "bad translation": (
        "CH1 Total dimming 0-255\nCH2 Flash 0-255 from slow to fast\nCH3 Red light dimmer\nCH4 Green light dimmer\n"
        "CH5 Blue light dimmer\nCH6 Auto change color\nCH7 Speed of programs", ["d sh r g b prog fspeed"]),
    "small talk around": (
        "DMX chart of the Moss Lamp\nPlease read before use.\n\n1 Dimmer\n2 Red\n3 Green\n4 Blue\n\nKeep away from water.",
        ["d r g b"]),
    "windows line ends": ("1 Red\r\n2 Green\r\n3 Blue\r\n4 Dimmer", ["r g b d"]),
    "semicolons": ("1;Red;0-255\n2;Green;0-255\n3;Blue;0-255\n4;Shutter;0-7 closed", ["r g b sh"]),
    "defaults": ("1 Pan default 128\n2 Tilt default 128\n3 Dimmer default 0", ["pan tilt d"]),
    "dimmer pack": ("1 Dimmer 1\n2 Dimmer 2\n3 Dimmer 3\n4 Dimmer 4", ["d d d d"]),
    "a gap": ("1 Red\n2 Green\n4 White", ["r g other w"]),
}  # fmt: skip
CORPUS["bars"] = (CORPUS["bars"][0], ["r g"])
CORPUS["mode columns in bars"] = (CORPUS["mode columns in bars"][0], ["r g b", "d r g b sh sound"])
