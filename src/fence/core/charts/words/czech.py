"""Czech."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: "stmivac, jas, intenzita, svetelnost",
        F.RED: "cervena, cerveny",
        F.GREEN: "zelena, zeleny",
        F.BLUE: "modra, modry",
        F.WHITE: "bila, bily, tepla bila, studena bila",
        F.AMBER: "jantar, jantarova",
        F.UV: "ultrafialova",
        F.YELLOW: "zluta, zluty",
        F.CCT: "teplota barev, teplota chromaticnosti",
        F.PAN: "otaceni, horizontalni pohyb",
        F.TILT: "naklon, naklaneni, vertikalni pohyb",
        F.ZOOM: "uhel paprsku",
        F.FOCUS: "ostreni, zaostreni",
        F.IRIS: "clona",
        F.PRISM: "hranol",
        F.COLOUR_WHEEL: "kotouc barev, barevny kotouc, barvy",
        F.SHUTTER: "zaverka, stroboskop",
        F.SPEED: "rychlost",
        F.PROGRAM: "automaticky program, programy",
        F.SOUND: "zvuk, hudba, ovladani zvukem",
        F.FAN: "ventilator chlazeni",
        F.OUTPUT: "mlha, kour, vystup",
    },
    heads={
        "channel number": "cislo, kanal, kanaly",
        "function": "funkce, nazev",
        "levels": "hodnota, hodnoty, rozsah",
        "meaning": "popis, vyznam",
    },
    channel="kanál, kanálu",
    channels="kanály, kanálů",
    address="adresa",
    fine="jemný, jemná, jemné, jemně",
    each="každý, každá, každé",
    total="celkem",
    and_so_on="atd",
    up_to_this="až",
    labels="strana, krok",
)
