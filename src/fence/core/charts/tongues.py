"""What manuals in other languages call functions: German, French, Spanish, Italian, Dutch, Portuguese; without accents.

A wording that means one thing in every language stands once. A person's own words come before all of them.
"""

from __future__ import annotations

from fence.core.words.profile import Function

F = Function

WORDINGS: dict[Function, str] = {
    F.DIMMER: """
        gesamthelligkeit, helligkeit, hauptdimmer, gesamtdimmer, intensitat, gradateur, variateur, intensite,
        intensite generale, luminosite, dimmer general, intensidad, intensidad general, atenuador, brillo,
        brillo general, intensita, intensita luminosa, luminosita, dimmer generale, helderheid, intensiteit,
        hoofddimmer, brilho, brilho geral, intensidade, intensidade geral, dimmer geral
    """,
    F.RED: "rot, rouge, rojo, rosso, rood, vermelho",
    F.GREEN: "grun, gruen, vert, verde, groen",
    F.BLUE: "blau, bleu, azul, blauw",
    F.WHITE: """
        weiss, warmweiss, kaltweiss, blanc, blanc chaud, blanc froid, blanco, blanco calido, blanco frio, bianco,
        bianco caldo, bianco freddo, wit, warm wit, koud wit, branco, branco quente, branco frio
    """,
    F.AMBER: "bernstein, ambre, ambar, ambra",
    F.UV: "ultraviolett, schwarzlicht, ultravioleta, ultravioletto, lumiere noire",
    F.YELLOW: "gelb, jaune, amarillo, giallo, geel, amarelo",
    F.CYAN: "zyan, ciano, cian",
    F.CCT: """
        farbtemperatur, temperature de couleur, temperatura de color, temperatura colore, temperatura di colore,
        kleurtemperatuur, temperatura de cor
    """,
    F.PAN: """
        schwenken, panoramique, rotation horizontale, movimiento horizontal, paneo, rotazione orizzontale,
        brandeggio, draaien, zwenken, movimento horizontal, horizontale bewegung
    """,
    F.TILT: """
        neigen, kippen, inclinaison, rotation verticale, movimiento vertical, inclinacion, rotazione verticale,
        inclinazione, kantelen, movimento vertical, inclinacao, vertikale bewegung
    """,
    F.FOCUS: "fokus, scharfe, mise au point, nettete, enfoque, foco, messa a fuoco, fuoco, scherpstelling",
    F.FROST: "weichzeichner, diffuseur, diffusore",
    F.GOBO: """
        goborad, gobowechsler, roue de gobos, roue gobo, rueda de gobos, rueda gobo, ruota gobo, gobowiel, roda de
        gobos
    """,
    F.GOBO_ROTATION: """
        goborotation, gobodrehung, rotation du gobo, rotation de gobo, rotacion de gobo, giro del gobo, rotazione
        gobo, gobo rotatie, rotacao do gobo
    """,
    F.PRISM: "prisma, prisme, rotation du prisme, rotacion del prisma, rotazione prisma",
    F.COLOUR_WHEEL: """
        farbrad, farbe, farben, farbwechsel, farbmakro, farbmakros, roue de couleurs, roue couleurs, couleurs,
        couleur, rueda de colores, rueda de color, colores, ruota colori, ruota dei colori, colori,
        kleurenwiel, kleuren, kleur, roda de cores, cores
    """,
    F.SHUTTER: """
        stroboskop, blitz, strobo, verschluss, blitzfrequenz, obturateur, vitesse du stroboscope, eclair,
        estroboscopio, obturador, estrobo, destello, otturatore, stroboscopio, effetto strobo, stroboscoop
    """,
    F.SPEED: """
        geschwindigkeit, tempo, bewegungsgeschwindigkeit, vitesse des mouvements, vitesse de mouvement, vitesse,
        velocidad, velocidad de movimiento, velocita, velocita di pan e tilt, velocita movimento, snelheid,
        bewegingssnelheid, velocidade, velocidade do movimento, velocidade de movimento
    """,
    F.PROGRAM: """
        automatikprogramme, automatische programme, automatik, effekte, makro, makros, programmes, programme
        automatique, programmes automatiques, effets, effet, programas, programas automaticos, efectos,
        programmi, programmi automatici, effetti, programma, effecten, efeitos, efeitos automaticos
    """,
    F.SOUND: """
        musik, musiksteuerung, mikrofon, mikrofonempfindlichkeit, musique, sensibilite du micro, sonido, microfono,
        sensibilidad del microfono, musica, sensibilita microfono, sensibilita del microfono, geluid,
        muziek, microfoon, som, microfone, sensibilidade do microfone
    """,
    F.RESET: """
        sonderfunktionen, zurucksetzen, fonctions speciales, reinitialisation, funciones especiales, reinicio,
        funzioni speciali, ripristino, speciale functies, funcoes especiais
    """,
    F.FUNCTION_SPEED: """
        programmgeschwindigkeit, effektgeschwindigkeit, makrogeschwindigkeit, vitesse des programmes, vitesse du
        programme, vitesse des effets, velocidad de programas, velocidad del programa, velocidad de efectos,
        velocidad de los efectos, velocita programmi, velocita effetti, velocita dei programmi,
        programmasnelheid, effectsnelheid, snelheid programma, velocidade dos efeitos, velocidade dos
        programas
    """,
    F.FAN: "lufter, ventilator, ventilateur, ventilador, ventola",
    F.OUTPUT: "nebel, ausgang, fumee, humo, salida, fumo, uscita, rook, uitgang, fumaca, saida",
    F.OTHER: """
        nicht belegt, nicht benutzt, reserviert, ohne funktion, non utilise, reserve, sin uso, sin funcion,
        reservado, non usato, riservato, niet gebruikt, gereserveerd, nao usado
    """,
}

HEADERS = frozenset({
    "kanal", "kanale", "kanaele", "canal", "canaux", "canale", "canali", "canales", "kanaal", "kanalen", "canais",
    "funktion", "fonction", "funcion", "funzione", "functie", "funcao", "wert", "werte", "valeur", "valeurs",
    "valor", "valores", "valore", "valori", "waarde", "waarden", "beschreibung", "descripcion", "descrizione",
    "beschrijving", "descricao", "bedeutung", "betekenis", "significado", "significato", "bereich", "plage",
    "rango", "intervallo", "bereik", "efecto", "effetto", "von", "bis", "meaning", "levels", "notes", "remarks",
})  # fmt: skip
"""Words that only stand over a column."""
CHANNEL_WORDS = r"kan[aä]l(?:e|en)?|kanaals?|canali|canales|canale|canaux|canais|canal"
MODE_WORDS = r"mode|modus|modo|modalit[aà]|betriebsart|personality"
"""How a mode is announced. The Dutch word for it also means other things, and needs a count beside it."""
FINE_WORDS = r"fein|fino|fina|fin|fijn"
UP_TO = r"(?:à|a|bis|t/m|tot|hasta|até|al|au|thru|through)"
"""What stands between the first and the last level of a range."""
