"""Italian."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: """
            intensita, intensita luminosa, luminosita, intensita generale, luminosita generale,
            dimmer generale, dimmer principale
        """,
        F.RED: "rosso",
        F.GREEN: "verde",
        F.WHITE: "bianco, bianco caldo, bianco freddo, bianco neutro, luce bianca",
        F.AMBER: "ambra, arancio",
        F.UV: "ultravioletto",
        F.CYAN: "ciano",
        F.YELLOW: "giallo",
        F.CCT: "temperatura colore, temperatura di colore, temperatura",
        F.PAN: "rotazione orizzontale, brandeggio, giro orizzontale, movimento orizzontale",
        F.TILT: "rotazione verticale, inclinazione, giro verticale, movimento verticale",
        F.ZOOM: "angolo del fascio, angolo fascio",
        F.FOCUS: "messa a fuoco, fuoco",
        F.FROST: "diffusore",
        F.GOBO: "ruota gobo, selezione gobo, gobo fissi, disco gobo",
        F.GOBO_ROTATION: "rotazione gobo, rotazione del gobo",
        F.PRISM: "rotazione prisma, rotazione del prisma, prisma",
        F.COLOUR_WHEEL: """
            ruota colori, ruota dei colori, colori, ruota colore, disco colori, macro colori, macro
            colore, selezione colore, colori predefiniti
        """,
        F.SHUTTER: """
            otturatore, stroboscopio, effetto strobo, velocita strobo, effetto stroboscopico,
            frequenza strobo
        """,
        F.SPEED: """
            velocita, velocita di pan e tilt, velocita movimento, velocita pan tilt, velocita
            motori, velocita dei motori
        """,
        F.PROGRAM: """
            programmi, programmi automatici, effetti, programmi interni, programmi auto, selezione
            programma, selezione programmi, modalita automatica, programma automatico, programma
        """,
        F.SOUND: """
            microfono, sensibilita microfono, sensibilita del microfono, sensibilita, sensibilita
            audio, musica, modalita musicale
        """,
        F.RESET: "funzioni speciali, ripristino, impostazioni, azzeramento, reset generale",
        F.FUNCTION_SPEED: """
            velocita programmi, velocita effetti, velocita dei programmi, velocita programma,
            velocita del programma, velocita degli effetti
        """,
        F.FAN: "ventola, velocita ventola",
        F.OUTPUT: "fumo, uscita, nebbia",
        F.OTHER: "non usato, riservato, curva di dimmeraggio, libero",
    },
    heads={
        "channel number": "canale, canali, numero",
        "function": "funzione, funzioni, nome, parametro",
        "levels": "valore, valori, intervallo",
        "from": "inizio",
        "to": "fine",
        "meaning": "descrizione, risultato, effetto, significato, nota, note",
        "default": "predefinito",
        "mode": "modalita, modo",
        "leave out": "percentuale",
    },
    fillers="""
        di, del, della, da, il, lo, gli, la, le, generale, totale, controle, selezione, controllo,
        regolazione
    """,
    channel="canale, can",
    channels="canali",
    address="indirizzo",
    first="iniziale",
    mode="modo, modalità",
    fine="fino, fina, fine",
    coarse="grosso",
    cell="testa, cella, zona, segmento, anello",
    lamp="lampada",
    verbs="è",
    like="come, uguale",
    each="ciascuno",
    total="totale",
    and_so_on="e così via",
    up_to_this="fino a",
    default="predefinito",
    unused="non usato, riservato, libero",
    labels="scena, pagina, passo",
    counted="programma, effetto, effetti, colori",
    joints="e",
    up_to="a, al",
    start="da, dal, di",
    up_to_and_with="fino a",
    below="sotto",
    beginning_with="da, a partire da",
    above="oltre",
    and_up="e oltre",
    speed="velocità",
    rotation="rotazione",
    continued="continua, segue",
    page="pagina",
    of_pages="di",
    numbers="due, tre, quattro, cinque, sei, sette, otto, nove, dieci, undici, dodici",
    ordinals="primo, secondo, terzo, quarto, quinto, sesto, settimo, ottavo, nono, decimo",
)
