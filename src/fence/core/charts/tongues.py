"""What manuals in other languages call functions: German, French, Spanish, Italian, Dutch, Portuguese, Polish, Czech;
without accents.

A wording that means one thing in every language stands once. A person's own words come before all of them.
"""

from __future__ import annotations

import re

from fence.core.model.profile import Function

F = Function

WORDINGS: dict[Function, str] = {
    F.DIMMER: """
        sciemniacz, jasnosc, natezenie, intensywnosc, natezenie swiatla, stmivac, jas, intenzita, svetelnost,
        gesamthelligkeit, helligkeit, hauptdimmer, gesamtdimmer, intensitat, gradateur, variateur, intensite,
        intensite generale, luminosite, dimmer general, intensidad, intensidad general, atenuador, brillo,
        brillo general, intensita, intensita luminosa, luminosita, dimmer generale, helderheid, intensiteit,
        hoofddimmer, brilho, brilho geral, intensidade, intensidade geral, dimmer geral, lichtstarke, leuchtstarke,
        gesamtintensitat, hauptintensitat, masterdimmer, dimmen, dimmung, intensite lumineuse, luminosite generale,
        gradation, master general, luminosidad, regulador, intensidad luminosa, brillo total, dimmer total,
        intensita generale, luminosita generale, dimmer principale, lichtsterkte, helderheid totaal, dimmen totaal,
        intensidade luminosa, luminosidade, brilho total
    """,
    F.RED: "czerwony, czerwien, cervena, cerveny, rot, rouge, rojo, rosso, rood, vermelho",
    F.GREEN: "zielony, zielen, zelena, zeleny, grun, gruen, vert, verde, groen",
    F.BLUE: "niebieski, modra, modry, blau, bleu, azul, blauw",
    F.WHITE: """
        bialy, biel, biala, bila, bily, cieply bialy, zimny bialy, tepla bila, studena bila,
        weiss, warmweiss, kaltweiss, blanc, blanc chaud, blanc froid, blanco, blanco calido, blanco frio, bianco,
        bianco caldo, bianco freddo, wit, warm wit, koud wit, branco, branco quente, branco frio, weiss warm,
        weiss kalt, neutralweiss, tageslicht, blanc neutre, lumiere blanche, blanco neutro, luz blanca,
        bianco neutro, luce bianca, neutraal wit, luz branca
    """,
    F.AMBER: """
        bursztynowy, bursztyn, jantar, jantarova,
        bernstein, ambre, ambar, ambra, amberkleurig, naranja, arancio, laranja
    """,
    F.UV: "ultrafiolet, ultrafialova, ultraviolett, schwarzlicht, ultravioleta, ultravioletto, lumiere noire",
    F.YELLOW: "zolty, zolta, zluta, zluty, gelb, jaune, amarillo, giallo, geel, amarelo",
    F.CYAN: "zyan, ciano, cian",
    F.CCT: """
        temperatura barwowa, temperatura barwy, teplota barev, teplota chromaticnosti,
        farbtemperatur, temperature de couleur, temperatura de color, temperatura colore, temperatura di colore,
        kleurtemperatuur, temperatura de cor, farbtemp, temperature couleur, temp de couleur, temp color,
        temperatura del color, temperatura, kleurtemp, temp de cor
    """,
    F.PAN: """
        drehung, drehen,
        obrot, obrot poziomy, ruch poziomy, otaceni, horizontalni pohyb,
        schwenken, panoramique, rotation horizontale, movimiento horizontal, paneo, rotazione orizzontale,
        brandeggio, draaien, zwenken, movimento horizontal, horizontale bewegung, pan bewegung, schwenkbewegung,
        horizontalbewegung, mouvement horizontal, rotation pan, movimiento pan, giro horizontal, movimento pan,
        horizontale rotatie, rotacao horizontal, giro orizzontale, movimento orizzontale
    """,
    F.TILT: """
        pochylenie, przechyl, ruch pionowy, naklon, naklaneni, vertikalni pohyb,
        neigen, kippen, inclinaison, rotation verticale, movimiento vertical, inclinacion, rotazione verticale,
        inclinazione, kantelen, movimento vertical, inclinacao, vertikale bewegung, tilt bewegung, neigebewegung,
        vertikalbewegung, mouvement vertical, rotation tilt, movimiento tilt, giro vertical, movimento tilt,
        verticale beweging, verticale rotatie, rotacao vertical, giro verticale, movimento verticale, neiging
    """,
    F.FOCUS: """
        ostrosc, ogniskowanie, ostreni, zaostreni,
        fokus, scharfe, mise au point, nettete, enfoque, foco, messa a fuoco, fuoco, scherpstelling, scharfstellung,
        fokussierung, scherpte, focagem
    """,
    F.FROST: """
        weichzeichner, diffuseur, diffusore, weichzeichnung, difusor, difusion, filtro frost, diffusie, difusao
    """,
    F.GOBO: """
        goborad, gobowechsler, roue de gobos, roue gobo, rueda de gobos, rueda gobo, ruota gobo, gobowiel,
        roda de gobos, goboauswahl, gobo auswahl, motivrad, motive, muster, choix du gobo, selection gobo,
        gobos fixes, seleccion de gobo, gobos fijos, selezione gobo, gobo fissi, disco gobo, gobo keuze,
        selecao de gobo, roda de gobo, disco de gobos
    """,
    F.GOBO_ROTATION: """
        goborotation, gobodrehung, rotation du gobo, rotation de gobo, rotacion de gobo, giro del gobo,
        rotazione gobo, gobo rotatie, rotacao do gobo, gobo rotieren, gobo drehung, goboindex, rotation gobo,
        rotation des gobos, rotacion gobo, rotacion del gobo, rotazione del gobo, gobo draaien, rotacao gobo
    """,
    F.PRISM: """
        pryzmat, hranol,
        prisma, prisme, rotation du prisme, rotacion del prisma, rotazione prisma, prismarotation, prismendrehung,
        rotation prisme, rotacion prisma, rotazione del prisma, prismarotatie, rotacao do prisma, prismas
    """,
    F.COLOUR_WHEEL: """
        tarcza kolorow, kolo kolorow, kolory, kotouc barev, barevny kotouc, barvy,
        farbrad, farbe, farben, farbwechsel, farbmakro, farbmakros, roue de couleurs, roue couleurs, couleurs,
        couleur, rueda de colores, rueda de color, colores, ruota colori, ruota dei colori, colori, kleurenwiel,
        kleuren, kleur, roda de cores, cores, farbwahl, farbauswahl, farbscheibe, farbvoreinstellungen,
        farbmischung, festfarben, disque de couleurs, choix des couleurs, choix de couleur, macros de couleur,
        macros couleurs, macro couleur, macros de couleurs, couleurs predefinies, rueda colores, seleccion de color,
        seleccion de colores, macros de color, colores predefinidos, ruota colore, disco colori, macro colori,
        macro colore, selezione colore, colori predefiniti, kleurwiel, kleurkeuze, kleurmacro, kleurmacros,
        vaste kleuren, roda de cor, macros de cor, selecao de cor, cores predefinidas
    """,
    F.SHUTTER: """
        stroboskop, migawka, zaverka, strobo,
        stroboskop, blitz, strobo, verschluss, blitzfrequenz, obturateur, vitesse du stroboscope, eclair,
        estroboscopio, obturador, estrobo, destello, otturatore, stroboscopio, effetto strobo, stroboscoop,
        blitzfolge, blitzeffekt, blitzrate, blitzgeschwindigkeit, blinken, blitzlicht, stroboskopeffekt,
        strobefrequenz, strobe geschwindigkeit, frequence du stroboscope, frequence stroboscope,
        vitesse stroboscope, vitesse strobe, effet stroboscope, effet strobe, frecuencia de estrobo,
        velocidad de estrobo, efecto estrobo, efecto estroboscopico, estroboscopico, velocidad estrobo,
        frequenza strobo, velocita strobo, effetto stroboscopico, flits, flitsen, flitser, flitsfrequentie,
        flitssnelheid, strobosnelheid, velocidade do estrobo, velocidade estrobo, efeito estroboscopico,
        efeito estrobo, estroboscopo
    """,
    F.SPEED: """
        predkosc, szybkosc, rychlost,
        geschwindigkeit, tempo, bewegungsgeschwindigkeit, vitesse des mouvements, vitesse de mouvement, vitesse,
        velocidad, velocidad de movimiento, velocita, velocita di pan e tilt, velocita movimento, snelheid,
        bewegingssnelheid, velocidade, velocidade do movimento, velocidade de movimento, pan tilt geschwindigkeit,
        geschwindigkeit pan tilt, motorgeschwindigkeit, vitesse pan tilt, vitesse moteurs, vitesse de deplacement,
        velocidad pan tilt, velocidad de los motores, velocidad motores, velocita pan tilt, velocita motori,
        velocita dei motori, snelheid pan tilt, motorsnelheid, bewegingstempo, velocidade pan tilt,
        velocidade dos motores, velocidade de pan tilt
    """,
    F.PROGRAM: """
        programy, makra, program automatyczny, automaticky program,
        automatikprogramme, automatische programme, automatik, effekte, makro, makros, programmes,
        programme automatique, programmes automatiques, effets, effet, programas, programas automaticos, efectos,
        programmi, programmi automatici, effetti, programma, effecten, efeitos, efeitos automaticos, automatikmodus,
        autoprogramm, autoprogramme, programmauswahl, programmwahl, interne programme, showprogramme, showprogramm,
        effektprogramme, effektauswahl, selection programme, choix du programme, programmes internes,
        programmes auto, programme interne, mode automatique, programa, programas internos, seleccion de programa,
        programas auto, modo automatico, modo auto, funcion auto, efectos automaticos, programma automatico,
        programmi interni, programmi auto, selezione programma, selezione programmi, modalita automatica,
        automatische programma s, programmakeuze, interne programma s, programma s, automatische modus,
        selecao de programa, programa automatico, macro s
    """,
    F.SOUND: """
        dzwiek, muzyka, sterowanie dzwiekiem, zvuk, hudba, ovladani zvukem,
        musik, musiksteuerung, mikrofon, mikrofonempfindlichkeit, musique, sensibilite du micro, sonido, microfono,
        sensibilidad del microfono, musica, sensibilita microfono, sensibilita del microfono, geluid, muziek,
        microfoon, som, microfone, sensibilidade do microfone, musikmodus, musikempfindlichkeit, soundmodus,
        mikrofon empfindlichkeit, empfindlichkeit, klangsteuerung, mode musical, detection musicale, sensibilite,
        sensibilite audio, sensibilite sonore, micro, modo audio, sensibilidad, sensibilidad de audio,
        audio ritmico, modo sonido, sensibilidad al sonido, modalita musicale, sensibilita, sensibilita audio,
        microfoongevoeligheid, gevoeligheid, geluidgestuurd, muziekmodus, sensibilidade, sensibilidade do audio,
        modo som
    """,
    F.RESET: """
        sonderfunktionen, zurucksetzen, fonctions speciales, reinitialisation, funciones especiales, reinicio,
        funzioni speciali, ripristino, speciale functies, funcoes especiais, steuerung, geratesteuerung,
        lampensteuerung, spezialfunktionen, einstellungen, geratefunktionen, rucksetzen, fonctions, reglages,
        commandes speciales, remise a zero, reinicializar, ajustes, control especial, restablecer, impostazioni,
        azzeramento, reset generale, instellingen, speciale functie, terugzetten, resetten, controles especiais,
        funcoes, reiniciar, redefinir
    """,
    F.FUNCTION_SPEED: """
        programmgeschwindigkeit, effektgeschwindigkeit, makrogeschwindigkeit, vitesse des programmes,
        vitesse du programme, vitesse des effets, velocidad de programas, velocidad del programa,
        velocidad de efectos, velocidad de los efectos, velocita programmi, velocita effetti,
        velocita dei programmi, programmasnelheid, effectsnelheid, snelheid programma, velocidade dos efeitos,
        velocidade dos programas, programm geschwindigkeit, effekt geschwindigkeit, makro geschwindigkeit,
        ablaufgeschwindigkeit, lauflichtgeschwindigkeit, vitesse programmes, vitesse programme, vitesse des macros,
        vitesse effets, velocidad programas, velocidad programa, velocidad efectos, velocidad de macros,
        velocidad de los programas, velocita programma, velocita del programma, velocita degli effetti,
        snelheid programma s, snelheid effecten, macrosnelheid, velocidade programas, velocidade do programa,
        velocidade efeitos, velocidade dos macros
    """,
    F.FAN: """
        wentylator, ventilator chlazeni,
        lufter, ventilator, ventilateur, ventilador, ventola, lufterdrehzahl, luftergeschwindigkeit,
        vitesse du ventilateur, velocidad del ventilador, velocita ventola, ventilatorsnelheid,
        velocidade do ventilador
    """,
    F.OUTPUT: """
        dym, mgla, wyjscie, mlha, kour, vystup,
        nebel, ausgang, fumee, humo, salida, fumo, uscita, rook, uitgang, fumaca, saida, nebelausstoss, nebelmenge,
        brouillard, debit, vapor, nebbia, nevel, nevoa, relais, rele
    """,
    F.OTHER: """
        nicht belegt, nicht benutzt, reserviert, ohne funktion, non utilise, reserve, sin uso, sin funcion,
        reservado, non usato, riservato, niet gebruikt, gereserveerd, nao usado, dimmerkurve, dimmerverlauf,
        dimmgeschwindigkeit, dimmverhalten, courbe de gradation, courbe dimmer, courbe, curva de dimmer,
        curva dimmer, curva, curva di dimmeraggio, dimcurve, curva do dimmer, libre, frei, libero, vrij, livre
    """,
    F.ZOOM: """
        powiekszenie, kat rozsylu, uhel paprsku,
        abstrahlwinkel, strahlwinkel, angle de faisceau, angulo del haz, angulo de haz, apertura del haz,
        angolo del fascio, angolo fascio, bundelhoek, angulo do feixe, faisceau
    """,
}

HEADS = {
    "channel number": """
        channel channels chan ch no nr num nummer number slot slots offset byte kanal kanale kanaele kanaal kanalen
        canal canaux canales canale canali canais numero numer cislo kanaly
    """,
    "function": """
        function functions feature features parameter parameters name attribute control controls what funktion
        funktionen fonction fonctions funcion funciones funzione funzioni functie functies funcao funcoes bezeichnung
        nom nombre nome naam parametro parametre item does it funkcja funkcje funkce nazwa nazev
    """,
    "levels": """
        value values range ranges level levels wert werte wertebereich bereich dmxwert valeur valeurs plage plages valor
        valores rango rangos valore valori intervallo waarde waarden bereik faixa intervalo dmx decimal dec
        wartosc wartosci zakres hodnota hodnoty rozsah
    """,
    "from": "from von min minimum desde van inizio start low least",
    "to": "to bis max maximum hasta tot fine end high most",
    "meaning": """
        meaning meanings effect effects result results remark remarks note notes detail details property properties
        setting settings description descriptions comment comments action beschreibung bedeutung effekt bemerkung
        effet remarque wirkung funktionsweise resultat auswirkung descripcion resultado efecto significado
        descrizione risultato effetto significato nota note beschrijving betekenis
        effect opmerking descricao efeito observacao explanation info type content opis znaczenie popis vyznam
    """,
    "default": """
        default defaults home grundwert standard initial init standardwert defaut defecto predefinito standaard padrao
    """,
    "mode": "mode personality modus modo modalita betriebsart",
    "cell": "cell segment pixel zone head part ring section",
    "leave out": """
        percent percentage hex hexadecimal prozent pourcentage porcentaje percentuale snap fade resolution highlight
        invert inverted crossfade curve unit units ltp htp priority physical
    """,
}
"""Words that stand over a column, by what it holds."""
CHANNEL_WORDS = r"kan[aäá][lł](?:e|en|s|y|u|ów)?|kanaals?|kanaal|canali|canales|canale|canaux|canais|canal|can"
ADDRESS_WORDS = r"address|adresse|startadresse|adres|startadres|direcci[oó]n|indirizzo|endere[cç]o|adres|adresa"
FIRST_WORDS = r"start(?:ing)?|base|first|inicial|iniziale|de départ"
"""What stands before the address that a fixture is set to, and for it."""
MODE_WORDS = r"modes?|modus|modo|modalit[aà]|betriebsart|personality|m0de|kanalmodus"
"""How a mode is announced. The Dutch word for it also means other things, and needs a count beside it."""
FINE_WORDS = (
    r"fein(?:einstellung|stellung|abstimmung)?|precyzyjn[yae]|dok[lł]adn[yae]|jemn[eěéáý]|"
    r"fino|fina|fins?|fijn|feine?r?|precisi[oó]n|afinado"
)
COARSE_WORDS = r"grob|grossier|grueso|grosso|grof"
CELL_WORDS = (
    r"cell|pixel|segment|zone|head|led|section|part|eye|ring|kopf|k[öo]pfe|zelle|t[êe]te|cellule|cabezal|cabeza|celda|zona|"
    r"testa|cella|cel|kop|segmento|se[cç][cç][ãa]o|cabe[cç]a|c[ée]lula|px|anel|anillo|anello|anneau|tube|bar|panel|spot"
)
"""What manuals call the parts of a fixture that light on their own."""
AS_WORDS = (
    r"repeat|repeated|same|as|like|ditto|wie|wiederholung|comme|idem|como|igual|come|uguale|zoals|als|gelijk|identical"
)
"""Words that send the reader to channels before."""
TOTAL_WORDS = r"total|sum|gesamt|summe|insgesamt|au total|totale|totaal|razem|suma|celkem"
AND_SO_ON = (
    r"(?:\.{2,}|…|⋮|:|\|)|(?:etc|usw|u\.\s?s\.\s?w|and so on|und so weiter|et ainsi de suite|y así sucesivamente|"
    r"e così via|enz|enzovoort|itd|atd)\b\.?(?:\s*(?:up to|to|bis|until|jusqu'à|hasta|fino a|tot|až|do))?"
)
"""A line that leaves out what goes on alike."""
EACH_WORDS = r"each|je(?:weils)?|chacun|chaque|cada uno|ciascuno|elk|cada|ka[zż]d[yae]|ka[zž]d[yýáé]"
"""Words that give the same to every one of some cells."""
DEFAULT_WORDS = (
    r"defaults?|home|grundwert|standardwert|par défaut|défaut|por defecto|predefinito|standaard|padrão|initial"
)
UNUSED = re.compile(
    r"\b(?:not used|unused|no function|no use|reserved?|empty|free|spare|n/?a|nicht (?:belegt|benutzt|verwendet)|"
    r"unbenutzt|reserviert|ohne funktion|frei|leer|inutilis[ée]e?|non utilis[ée]e?|r[ée]serv[ée]e?|libre|"
    r"sin (?:uso|funci[oó]n)|reservado|vac[ií]o|non usato|riservato|libero|niet gebruikt|gereserveerd|vrij|"
    r"n[ãa]o usado|sem fun[cç][ãa]o|livre)\b",
    re.I,
)
"""A channel that is there and does nothing."""
OTHER_LABELS = frozenset(
    "cue pin switch dip step page scene preset fixture table figure seite szene schalter schritt bild paso escena "
    "pagina etape scene passo cena strana krok".split()
)
"""What numbers rows that are no channels: cues, pins, switches, steps."""
UP_TO = r"to|up to|à|a|bis|t/m|tot|hasta|até|al|au|thru|through|y"
"""What stands between the first and the last level of a range."""
FROM = r"from|von|de|del|desde|da|dal|van|entre|between|vom"
"""What may stand before the first level of a range."""
BELOW = (
    r"below|under|less than|up to|unter|bis(?: zu)?|jusqu'(?:à|a)|moins de|hasta|fino a|sotto|tot|onder|até|abaixo de"
)
"""What stands before the last level of a range that begins at 0."""
ABOVE = r"above|over|more than|from|ab|über|à partir de|plus de|desde|a partir de|da|oltre|vanaf|boven|acima de"
"""What stands before the first level of a range that ends at 255."""
NOT_ITSELF = frozenset(
    [
        *("below", "under", "less than", "unter", "moins de", "sotto", "onder", "abaixo de"),
        *("above", "over", "more than", "über", "plus de", "oltre", "boven", "acima de"),
    ]
)
"""Those of them behind which the number itself is none of the levels."""
AND_UP = (
    r"and up|and above|and over|and more|on\b|onwards?|up\b|upwards?|und (?:mehr|höher)|et plus|y más|e oltre|en hoger|"
    r"e acima|\+"
)
"""What stands behind the first level of a range that ends at 255."""
COUNTED = (
    r"gobos?|colou?rs?|patterns?|programs?|programmes?|programm|programma|programas?|pixels?|cells?|segments?|zones?|"
    r"heads?|leds?|parts?|rings?|macros?|effects?|effekte?|efectos?|efeitos?|effetti|shows?|chases?|mix(?:es)?|modes?|"
    r"channels?|ch|kan[aä]le?|canaux|canales|canali|canais|kanalen|slots?|steps?|scenes?|presets?|outputs?|lamps?|"
    r"farben|couleurs?|colores|colori|kleuren|cores|motif|motive|muster|frames?|filters?|page|pages|items?"
)
"""Things that manuals count: numbers behind them are no levels."""


def _counted(lines: str, first: int) -> dict[str, int]:
    """Words by what they count: those of a line stand for the same number, the first line for ``first``."""
    rows = enumerate(lines.strip().splitlines(), first)
    return {word: number for number, line in rows for word in line.split()}


NUMBER_WORDS = _counted(
    """
    two zwei deux dos due dois twee
    three drei trois tres tre três drie
    four vier quatre cuatro quattro quatro
    five fünf cinq cinco cinque vijf
    six sechs sei zes seis
    seven sieben sept siete sette sete zeven
    eight acht huit ocho otto oito
    nine neun neuf nueve nove negen
    ten zehn dix diez dieci dez tien
    eleven elf onze
    twelve zwölf douze doce dodici doze twaalf
    thirteen
    fourteen
    fifteen
    sixteen
    seventeen
    eighteen
    nineteen
    twenty
    """,
    2,
)
"""Numbers that manuals write out before ``channels``."""
ORDINALS = _counted(
    """
    first erster erste premier primer primero primo primeiro eerste
    second zweiter zweite deuxième segundo secondo tweede
    third dritter dritte troisième tercer tercero terzo terceiro derde
    fourth vierter vierte quatrième cuarto quarto vierde
    fifth fünfter fünfte cinquième quinto vijfde
    sixth sechster sechste sixième sexto sesto zesde
    seventh siebter siebte septième séptimo settimo sétimo zevende
    eighth achter achte huitième octavo ottavo oitavo achtste
    ninth neunter neunte neuvième noveno nono negende
    tenth zehnter zehnte dixième décimo decimo tiende
    eleventh
    twelfth
    thirteenth
    fourteenth
    fifteenth
    sixteenth
    """,
    1,
)
"""Numbers that manuals write out before ``channel``."""
_FILLERS = """
    led leds light lights value adjust adjustment adjusting control controls dimming intensity brightness level function
    channel setting all total the of a an for in to with on by its from output select selection selecting choose choice
    choosing dmx linear 8 bit licht der die das des dem de la le les du el los las il lo gli di del della do da dos van
    het een steuerung regelung einstellung auswahl general generale global totale wahl reglage controle selezione
    seleccion selecao seleccao controllo regolazione regulacion ajuste keuze instelling color colour
"""
FILLERS = frozenset(_FILLERS.split())
"""Words that add nothing to those beside them."""
