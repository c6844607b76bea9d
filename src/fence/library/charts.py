"""The shipped charts, built from short words for the usual channels.

Makers and models are invented; those of the generic types are nobody's. Every chart is complete:
each slot of each mode says what it does.
"""

from __future__ import annotations

from functools import cache

from fence.core.model.profile import (
    Byte,
    Channel,
    Mode,
    Part,
    Profile,
    Range,
    Setter,
    SetterKind,
)
from fence.library.generic import generic_profiles
from fence.library.pieces import (
    CONTROL,
    DIMMER,
    MENU,
    PAN_TILT,
    PAN_TILT_SPEED,
    PROGRAM,
    RGB,
    RGBW,
    SHUTTER,
    F,
    cells,
    mode,
    plain,
)


def _dimmers_and_relays() -> list[Profile]:
    return [
        Profile(
            "mattock-rack-12",
            "Mattock",
            "Rack 12",
            (
                mode(
                    "12 channel",
                    (Channel(F.DIMMER, f"dimmer {n}", highlight=255) for n in range(1, 13)),
                ),
                mode(
                    "6 channel paired",
                    (Channel(F.DIMMER, f"pair {n}", highlight=255) for n in range(1, 7)),
                ),
            ),
            kind="Dimmer pack",
            setter=Setter(
                SetterKind.ROTARY, highest=512, steps="Three thumbwheels: hundreds, tens, ones."
            ),
            listens="Always; the DMX lamp blinks without signal.",
            no_signal="Holds the last levels.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            weight_kg=11.5,
            power_w=2760,
        ),
        Profile(
            "mattock-latch",
            "Mattock",
            "Latch",
            (
                mode(
                    "1 channel",
                    Channel(
                        F.OUTPUT, "relay", ranges=(Range(0, 127, "off"), Range(128, 255, "on"))
                    ),
                ),
            ),
            kind="Relay",
            setter=Setter(SetterKind.ROTARY, highest=99, steps="Two thumbwheels: tens, ones."),
            listens="Always.",
            no_signal="Falls off after 2 s.",
            connectors_in="3-pin",
            connectors_out="3-pin",
            weight_kg=0.9,
            power_w=3,
        ),
        Profile(
            "mattock-fork-8",
            "Mattock",
            "Fork 8",
            (Mode("RDM only", (Part(0),)),),
            kind="Splitter, 1 in and 8 out",
            setter=Setter(SetterKind.RDM),
            listens="Passes everything on; takes no channels.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            rdm=True,
            weight_kg=2.2,
            power_w=9,
        ),
    ]


def _leds() -> list[Profile]:
    cct = Channel(F.CCT, default=128, ranges=(Range(0, 255, "warm to cold", 2700, 6500, "K"),))
    return [
        Profile(
            "tansy-pond-wash",
            "Tansy",
            "Pond Wash",
            (
                mode("3 channel", plain(*RGB)),
                mode("4 channel", plain(*RGBW)),
                mode("5 channel", DIMMER, plain(*RGBW)),
                mode(
                    "8 channel",
                    DIMMER,
                    plain(*RGBW),
                    SHUTTER,
                    PROGRAM,
                    Channel(F.FUNCTION_SPEED, "program speed"),
                ),
                mode(
                    "10 channel",
                    Channel(F.DIMMER, byte=Byte.COARSE, highlight=255),
                    Channel(F.DIMMER, byte=Byte.FINE, highlight=255),
                    plain(*RGBW, F.AMBER),
                    SHUTTER,
                    PROGRAM,
                    Channel(F.FUNCTION_SPEED, "program speed"),
                ),
            ),
            kind="LED par, RGBW",
            setter=Setter(
                SetterKind.SWITCHES,
                switches=9,
                fixed_on=(10,),
                steps="Ten switches under the rubber cover; switch 10 on means: listen to DMX.",
            ),
            listens="Switch 10 must be on.",
            no_signal="Dark after 3 s.",
            connectors_in="3-pin",
            connectors_out="3-pin",
            weight_kg=2.4,
            power_w=64,
        ),
        Profile(
            "sedge-parchment",
            "Sedge",
            "Parchment",
            (
                mode("2 channel", DIMMER, cct),
                mode("3 channel", DIMMER, cct, SHUTTER),
                mode(
                    "5 channel 16-bit",
                    Channel(F.DIMMER, byte=Byte.COARSE, highlight=255),
                    Channel(F.DIMMER, byte=Byte.FINE, highlight=255),
                    cct,
                    Channel(F.TINT, default=128, ranges=(Range(0, 255, "magenta to green"),)),
                    SHUTTER,
                ),
            ),
            kind="White flood with colour temperature",
            setter=MENU,
            listens="Menu, DMX, on.",
            no_signal="Holds.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            rdm=True,
            weight_kg=4.1,
            power_w=140,
        ),
        Profile(
            "sedge-nightbloom",
            "Sedge",
            "Nightbloom",
            (mode("1 channel", DIMMER), mode("3 channel", DIMMER, SHUTTER, PROGRAM)),
            kind="UV flood",
            setter=Setter(
                steps="Hand programmer on the cable: dial the number, press write.",
                confirm="The lamp winks once when it is stored.",
                one_at_a_time=True,
            ),
            listens="Menu, DMX, on.",
            no_signal="Dark.",
            connectors_in="3-pin",
            connectors_out="3-pin",
            weight_kg=3.3,
            power_w=90,
        ),
        Profile(
            "tansy-glowworm",
            "Tansy",
            "Glowworm",
            (
                mode("4 channel", plain(*RGBW)),
                mode("6 channel", DIMMER, plain(*RGBW), SHUTTER),
                mode(
                    "10 channel",
                    DIMMER,
                    plain(*RGBW, F.AMBER, F.UV),
                    SHUTTER,
                    PROGRAM,
                    Channel(F.SPEED),
                ),
            ),
            kind="Wireless uplight with battery",
            setter=MENU,
            listens="Menu, Link, paired; the link lamp is steady.",
            no_signal="Holds for 10 s, then dark.",
            connectors_in="wireless",
            wireless=True,
            battery_hours=20,
            charge_hours=5,
            charge_note="Charges only with its main switch on.",
            weight_kg=1.7,
            power_w=28,
        ),
        Profile(
            "dibber-cyc-duo",
            "Dibber",
            "Cyc Duo",
            (
                mode("5 channel", DIMMER, plain(*RGBW)),
                Mode(
                    "Split patch", (Part(1, (DIMMER,), "dimmer"), Part(4, plain(*RGBW), "colour"))
                ),
            ),
            kind="Cyclorama flood, dimmer and colour patched apart if wanted",
            setter=MENU,
            listens="Menu, DMX, on.",
            no_signal="Holds.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            rdm=True,
            weight_kg=6.8,
            power_w=210,
        ),
    ]


def _pixels() -> list[Profile]:
    return [
        Profile(
            "dibber-furrow",
            "Dibber",
            "Furrow",
            (
                mode("4 channel", DIMMER, plain(*RGB)),
                mode("24 channel", cells(8, *RGB)),
                mode("26 channel", DIMMER, SHUTTER, cells(8, *RGB)),
                mode("36 channel", DIMMER, SHUTTER, PROGRAM, Channel(F.SPEED), cells(8, *RGBW)),
            ),
            kind="Pixel batten, 8 cells",
            setter=MENU,
            listens="Menu, Mode, DMX.",
            no_signal="Runs its own rainbow after 5 s.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            rdm=True,
            weight_kg=5.6,
            power_w=180,
        ),
        Profile(
            "dibber-trellis",
            "Dibber",
            "Trellis",
            (
                mode("5 channel", DIMMER, SHUTTER, plain(*RGB)),
                mode("27 channel", cells(9, *RGB)),
                mode("110 channel", DIMMER, SHUTTER, cells(36, *RGB)),
            ),
            kind="Panel, 6 by 6 cells",
            setter=MENU,
            listens="Menu, Mode, DMX.",
            no_signal="Dark.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            rdm=True,
            weight_kg=7.9,
            power_w=260,
        ),
    ]


def _movers() -> list[Profile]:
    wheel = Channel(
        F.COLOUR_WHEEL,
        ranges=(Range(0, 15, "open"), Range(16, 143, "colours 1 to 8"), Range(144, 255, "turning")),
    )
    gobo = Channel(
        F.GOBO, ranges=(Range(0, 9, "open"), Range(10, 89, "gobos 1 to 8"), Range(90, 255, "shake"))
    )
    head = (
        PAN_TILT,
        PAN_TILT_SPEED,
        Channel(F.DIMMER, byte=Byte.COARSE, highlight=255),
        Channel(F.DIMMER, byte=Byte.FINE, highlight=255),
        SHUTTER,
        plain(F.CYAN, F.MAGENTA, F.YELLOW, F.CCT),
        wheel,
        gobo,
        Channel(F.GOBO_ROTATION, default=128),
        Channel(F.PRISM, ranges=(Range(0, 9, "out"), Range(10, 255, "in"))),
        plain(F.IRIS, F.FROST),
    )
    zoom_range = (Range(0, 255, "narrow to wide", 6, 48, "degrees"),)
    return [
        Profile(
            "teasel-sway",
            "Teasel",
            "Sway",
            (
                mode(
                    "16 channel",
                    PAN_TILT,
                    PAN_TILT_SPEED,
                    DIMMER,
                    SHUTTER,
                    plain(*RGBW, F.CCT, F.ZOOM),
                    CONTROL,
                    PROGRAM,
                    Channel(F.FUNCTION_SPEED),
                ),
                mode(
                    "26 channel",
                    PAN_TILT,
                    PAN_TILT_SPEED,
                    DIMMER,
                    SHUTTER,
                    cells(3, *RGBW),
                    plain(F.CCT, F.ZOOM),
                    CONTROL,
                    PROGRAM,
                    Channel(F.FUNCTION_SPEED),
                    Channel(F.FAN),
                    Channel(F.SOUND, "sound level"),
                ),
            ),
            kind="Moving wash, 16-bit movement",
            setter=MENU,
            listens="Menu, Control, DMX.",
            no_signal="Starts its own demo after 10 s: keep clear.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            rdm=True,
            weight_kg=8.6,
            power_w=240,
        ),
        Profile(
            "teasel-lance",
            "Teasel",
            "Lance",
            (
                mode(
                    "22 channel",
                    *head,
                    Channel(F.ZOOM, ranges=zoom_range),
                    Channel(F.FOCUS, default=128),
                    CONTROL,
                    PROGRAM,
                ),
                mode(
                    "34 channel",
                    *head,
                    Channel(F.ZOOM, byte=Byte.COARSE, ranges=zoom_range),
                    Channel(F.ZOOM, byte=Byte.FINE),
                    Channel(F.FOCUS, byte=Byte.COARSE, default=128),
                    Channel(F.FOCUS, byte=Byte.FINE),
                    CONTROL,
                    PROGRAM,
                    Channel(F.FUNCTION_SPEED),
                    Channel(F.FAN),
                    Channel(F.PRISM, "prism turning"),
                    Channel(F.GOBO, "second gobo wheel"),
                    Channel(F.GOBO_ROTATION, "second gobo turning", default=128),
                    Channel(F.IRIS, "iris pulse"),
                    Channel(F.SOUND, "sound level"),
                    Channel(F.OTHER, "blade angle"),
                    Channel(F.OTHER, "blade depth"),
                    Channel(F.OTHER, "autofocus distance"),
                ),
            ),
            kind="Moving spot",
            setter=MENU,
            listens="Menu, Control, DMX.",
            no_signal="Holds.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            rdm=True,
            weight_kg=21.5,
            power_w=520,
        ),
        Profile(
            "wheelhoe-mirror",
            "Wheelhoe",
            "Mirror 250",
            (mode("5 channel", plain(F.PAN, F.TILT), wheel, gobo, SHUTTER),),
            kind="Scanner of the switch-set kind",
            setter=Setter(
                SetterKind.SWITCHES,
                switches=8,
                fixed_off=(9,),
                first_is_left=False,
                steps="Nine switches at the back; switch 9 off means: listen to DMX.",
            ),
            listens="Switch 9 must be off.",
            no_signal="Runs to music.",
            connectors_in="3-pin",
            connectors_out="3-pin",
            weight_kg=14.0,
            power_w=340,
        ),
    ]


def _effects() -> list[Profile]:
    return [
        Profile(
            "bindweed-flicker",
            "Bindweed",
            "Flicker",
            (
                mode(
                    "2 channel",
                    DIMMER,
                    Channel(
                        F.SHUTTER,
                        "flash rate",
                        ranges=(Range(0, 5, "off"), Range(6, 255, "slow to fast", 1, 22, "Hz")),
                    ),
                ),
                mode(
                    "4 channel",
                    DIMMER,
                    Channel(F.SHUTTER, "flash rate"),
                    Channel(F.SPEED, "flash length"),
                    PROGRAM,
                ),
            ),
            kind="Strobe",
            setter=Setter(
                SetterKind.SWITCHES,
                switches=9,
                zero_based=True,
                steps="Nine switches showing address - 1.",
            ),
            listens="Always.",
            no_signal="Dark.",
            connectors_in="3-pin",
            connectors_out="3-pin",
            weight_kg=3.0,
            power_w=400,
        ),
        Profile(
            "bindweed-mistpot",
            "Bindweed",
            "Mistpot",
            (mode("2 channel", Channel(F.OUTPUT, "haze"), Channel(F.FAN)),),
            kind="Hazer",
            setter=MENU,
            listens="Menu, DMX, on, and warmed up.",
            no_signal="Stops.",
            connectors_in="5-pin",
            connectors_out="5-pin",
            weight_kg=9.4,
            power_w=1100,
        ),
    ]


@cache
def shipped_profiles() -> tuple[Profile, ...]:
    """All charts that ship with Fence, by maker and model."""
    found = [
        *_dimmers_and_relays(),
        *_leds(),
        *_pixels(),
        *_movers(),
        *_effects(),
        *generic_profiles(),
    ]
    return tuple(sorted(found, key=lambda profile: (profile.maker, profile.model)))
