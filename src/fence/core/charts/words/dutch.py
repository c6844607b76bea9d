"""Dutch."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: """
            helderheid, lichtsterkte, helderheid totaal, dimmen totaal, hoofddimmer, intensiteit,
            dimmen
        """,
        F.RED: "rood",
        F.GREEN: "groen",
        F.BLUE: "blauw",
        F.WHITE: "wit, warm wit, koud wit, neutraal wit",
        F.AMBER: "amberkleurig",
        F.YELLOW: "geel",
        F.CCT: "kleurtemperatuur, kleurtemp",
        F.PAN: "draaien, zwenken, horizontale rotatie",
        F.TILT: "kantelen, verticale beweging, verticale rotatie, neiging",
        F.ZOOM: "bundelhoek",
        F.FOCUS: "scherpstelling, scherpte",
        F.FROST: "diffusie",
        F.GOBO: "gobowiel, gobo keuze",
        F.GOBO_ROTATION: "gobo rotatie, gobo draaien",
        F.PRISM: "prismarotatie, prisma",
        F.COLOUR_WHEEL: """
            kleurenwiel, kleuren, kleur, kleurwiel, kleurkeuze, kleurmacro, kleurmacros, vaste
            kleuren
        """,
        F.SHUTTER: """
            stroboscoop, flits, flitsen, flitser, flitsfrequentie, flitssnelheid, strobosnelheid
        """,
        F.SPEED: """
            snelheid, bewegingssnelheid, snelheid pan tilt, motorsnelheid, bewegingstempo, tempo
        """,
        F.PROGRAM: """
            effecten, automatische programma s, programmakeuze, interne programma s, programma s,
            automatische modus, macro s, programma
        """,
        F.SOUND: """
            geluid, muziek, microfoon, microfoongevoeligheid, gevoeligheid, geluidgestuurd,
            muziekmodus
        """,
        F.RESET: "speciale functies, instellingen, speciale functie, terugzetten, resetten",
        F.FUNCTION_SPEED: """
            programmasnelheid, effectsnelheid, snelheid programma, snelheid programma s, snelheid
            effecten, macrosnelheid
        """,
        F.FAN: "ventilatorsnelheid, ventilator",
        F.OUTPUT: "rook, uitgang, nevel",
        F.OTHER: "niet gebruikt, gereserveerd, dimcurve, vrij",
    },
    heads={
        "channel number": "kanaal, kanalen, nummer",
        "function": "functie, functies, naam",
        "levels": "waarde, waarden, bereik",
        "from": "van",
        "to": "tot",
        "meaning": "beschrijving, betekenis, effect, opmerking",
        "default": "standaard",
        "mode": "modus",
    },
    fillers="van, het, een, keuze, instelling",
    channel="kanaal, kanaals",
    channels="kanalen",
    address="adres, startadres",
    mode="modus",
    mode_counted="stand",
    fine="fijn",
    coarse="grof",
    cell="kop, cel",
    like="zoals, als, gelijk",
    each="elk",
    total="totaal",
    and_so_on="enz, enzovoort",
    up_to_this="tot",
    default="standaard",
    unused="niet gebruikt, gereserveerd, vrij",
    labels="scene, pagina, stap",
    counted="kleuren, programma, effecten",
    joints="en",
    up_to="t/m, tot",
    start="van",
    up_to_and_with="tot",
    below="onder",
    beginning_with="vanaf",
    above="boven",
    and_up="en hoger",
    speed="snelheid",
    rotation="rotatie",
    continued="vervolg",
    page="pagina, blz",
    of_pages="van",
    numbers="twee, drie, vier, vijf, zes, zeven, acht, negen, tien, elf, twaalf",
    ordinals="eerste, tweede, derde, vierde, vijfde, zesde, zevende, achtste, negende, tiende",
)
