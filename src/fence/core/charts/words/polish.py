"""Polish."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: "sciemniacz, jasnosc, natezenie, intensywnosc, natezenie swiatla",
        F.RED: "czerwony, czerwien",
        F.GREEN: "zielony, zielen",
        F.BLUE: "niebieski",
        F.WHITE: "bialy, biel, biala, cieply bialy, zimny bialy",
        F.AMBER: "bursztynowy, bursztyn",
        F.UV: "ultrafiolet",
        F.YELLOW: "zolty, zolta",
        F.CCT: "temperatura barwowa, temperatura barwy",
        F.PAN: "obrot, obrot poziomy, ruch poziomy",
        F.TILT: "pochylenie, przechyl, ruch pionowy",
        F.ZOOM: "powiekszenie, kat rozsylu",
        F.FOCUS: "ostrosc, ogniskowanie",
        F.IRIS: "przyslona",
        F.PRISM: "pryzmat",
        F.COLOUR_WHEEL: "tarcza kolorow, kolo kolorow, kolory",
        F.SHUTTER: "migawka, stroboskop",
        F.SPEED: "predkosc, szybkosc",
        F.PROGRAM: "makra, program automatyczny, programy",
        F.SOUND: "dzwiek, muzyka, sterowanie dzwiekiem",
        F.FAN: "wentylator",
        F.OUTPUT: "dym, mgla, wyjscie",
    },
    heads={
        "channel number": "nr, kanal, kanaly",
        "function": "funkcja, funkcje, nazwa",
        "levels": "wartosc, wartosci, zakres",
        "meaning": "opis, znaczenie",
    },
    channel="kanał, kanału",
    channels="kanały, kanałów",
    address="adres",
    fine="precyzyjny, precyzyjna, precyzyjne, dokładny, dokładna, dokładne",
    each="każdy, każda, każde",
    total="razem, suma",
    and_so_on="itd",
    up_to_this="do",
    up_to="do",
    labels="krok, strona",
)
