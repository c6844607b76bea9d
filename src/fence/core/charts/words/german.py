"""German."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: """
            gesamthelligkeit, helligkeit, hauptdimmer, gesamtdimmer, intensitat, lichtstarke,
            leuchtstarke, gesamtintensitat, hauptintensitat, masterdimmer, dimmen, dimmung
        """,
        F.RED: "rot",
        F.GREEN: "grun, gruen",
        F.BLUE: "blau",
        F.WHITE: "weiss, warmweiss, kaltweiss, weiss warm, weiss kalt, neutralweiss, tageslicht",
        F.AMBER: "bernstein",
        F.UV: "ultraviolett, schwarzlicht",
        F.CYAN: "zyan",
        F.YELLOW: "gelb",
        F.CCT: "farbtemperatur, farbtemp",
        F.PAN: """
            drehung, drehen, schwenken, horizontale bewegung, pan bewegung, schwenkbewegung,
            horizontalbewegung
        """,
        F.TILT: """
            neigen, kippen, vertikale bewegung, tilt bewegung, neigebewegung, vertikalbewegung
        """,
        F.ZOOM: "abstrahlwinkel, strahlwinkel",
        F.FOCUS: "fokus, scharfe, scharfstellung, fokussierung",
        F.IRIS: "irisblende, blende",
        F.FROST: "weichzeichner, weichzeichnung",
        F.GOBO: "goborad, gobowechsler, goboauswahl, gobo auswahl, motivrad, motive, muster",
        F.GOBO_ROTATION: "goborotation, gobodrehung, gobo rotieren, gobo drehung, goboindex",
        F.PRISM: "prismarotation, prismendrehung, prisma",
        F.COLOUR_WHEEL: """
            farbrad, farbe, farben, farbwechsel, farbmakro, farbmakros, farbwahl, farbauswahl,
            farbscheibe, farbvoreinstellungen, farbmischung, festfarben
        """,
        F.SHUTTER: """
            stroboskop, blitz, verschluss, blitzfrequenz, blitzfolge, blitzeffekt, blitzrate,
            blitzgeschwindigkeit, blinken, blitzlicht, stroboskopeffekt, strobefrequenz, strobe
            geschwindigkeit
        """,
        F.SPEED: """
            geschwindigkeit, tempo, bewegungsgeschwindigkeit, pan tilt geschwindigkeit,
            geschwindigkeit pan tilt, motorgeschwindigkeit
        """,
        F.PROGRAM: """
            automatik, effekte, makro, makros, automatikmodus, autoprogramm, programmauswahl,
            programmwahl, showprogramm, effektauswahl, automatikprogramme, automatische programme,
            autoprogramme, interne programme, showprogramme, effektprogramme
        """,
        F.SOUND: """
            musik, musiksteuerung, mikrofon, mikrofonempfindlichkeit, musikmodus,
            musikempfindlichkeit, soundmodus, mikrofon empfindlichkeit, empfindlichkeit,
            klangsteuerung
        """,
        F.RESET: """
            sonderfunktionen, zurucksetzen, steuerung, geratesteuerung, lampensteuerung,
            spezialfunktionen, einstellungen, geratefunktionen, rucksetzen
        """,
        F.FUNCTION_SPEED: """
            programmgeschwindigkeit, effektgeschwindigkeit, makrogeschwindigkeit, programm
            geschwindigkeit, effekt geschwindigkeit, makro geschwindigkeit, ablaufgeschwindigkeit,
            lauflichtgeschwindigkeit
        """,
        F.FAN: "lufter, ventilator, lufterdrehzahl, luftergeschwindigkeit",
        F.OUTPUT: "nebel, ausgang, nebelausstoss, nebelmenge, relais",
        F.OTHER: """
            nicht belegt, nicht benutzt, reserviert, ohne funktion, dimmerkurve, dimmerverlauf,
            dimmgeschwindigkeit, dimmverhalten, frei
        """,
    },
    heads={
        "channel number": "nr, nummer, kanal, kanale, kanaele",
        "function": "funktion, funktionen, bezeichnung",
        "levels": "wert, werte, wertebereich, bereich, dmxwert",
        "from": "von",
        "to": "bis",
        "meaning": """
            beschreibung, bedeutung, effekt, bemerkung, wirkung, funktionsweise, resultat,
            auswirkung
        """,
        "default": "grundwert, standardwert",
        "mode": "modus, betriebsart",
        "leave out": "prozent",
    },
    fillers="""
        licht, der, die, das, des, dem, steuerung, regelung, einstellung, auswahl, generale, wahl
    """,
    channel="kanal, kanals, kanaly",
    channels="kanäle, kanaele, kanale, kanalen, kanälen",
    address="adresse, startadresse",
    mode="modus, betriebsart, kanalmodus",
    fine="fein, feineinstellung, feinstellung, feinabstimmung, feiner, feine",
    coarse="grob",
    cell="kopf, köpfe, koepfe, zelle",
    lamp="lampe",
    number_sign="nr",
    verbs="ist",
    like="wie, wiederholung",
    each="je, jeweils",
    total="gesamt, summe, insgesamt",
    and_so_on="usw, u. s. w, u.s.w, und so weiter",
    up_to_this="bis",
    default="grundwert, standardwert",
    unused="""
        nicht belegt, nicht benutzt, nicht verwendet, unbenutzt, reserviert, ohne funktion, frei,
        leer
    """,
    labels="seite, szene, schalter, schritt, bild",
    counted="programm, effekt, effekte, farben, motiv, motive, muster",
    joints="und",
    up_to="bis",
    start="von, vom",
    up_to_and_with="bis, bis zu",
    below="unter",
    beginning_with="ab",
    above="über",
    and_up="und mehr, und höher",
    speed="geschwindigkeit, tempo",
    rotation="drehung",
    continued="fortsetzung",
    page="seite",
    of_pages="von",
    glue="der",
    numbers="zwei, drei, vier, fünf, sechs, sieben, acht, neun, zehn, elf, zwölf",
    ordinals="""
        erster/erste, zweiter/zweite, dritter/dritte, vierter/vierte, fünfter/fünfte,
        sechster/sechste, siebter/siebte, achter/achte, neunter/neunte, zehnter/zehnte
    """,
)
