"""French."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: """
            gradateur, variateur, intensite, intensite generale, luminosite, intensite lumineuse,
            luminosite generale, gradation, master general, dimmer general
        """,
        F.RED: "rouge",
        F.GREEN: "vert",
        F.BLUE: "bleu",
        F.WHITE: "blanc, blanc chaud, blanc froid, blanc neutre, lumiere blanche",
        F.AMBER: "ambre",
        F.UV: "lumiere noire",
        F.YELLOW: "jaune",
        F.CCT: "temperature de couleur, temperature couleur, temp de couleur",
        F.PAN: "panoramique, rotation horizontale, mouvement horizontal, rotation pan",
        F.TILT: "inclinaison, rotation verticale, mouvement vertical, rotation tilt",
        F.ZOOM: "angle de faisceau, faisceau",
        F.FOCUS: "mise au point, nettete",
        F.FROST: "diffuseur",
        F.GOBO: "roue de gobos, roue gobo, choix du gobo, gobos fixes, selection gobo",
        F.GOBO_ROTATION: "rotation du gobo, rotation de gobo, rotation gobo, rotation des gobos",
        F.PRISM: "prisme, rotation du prisme, rotation prisme",
        F.COLOUR_WHEEL: """
            roue de couleurs, roue couleurs, couleurs, couleur, disque de couleurs, choix des
            couleurs, choix de couleur, macros de couleur, macros couleurs, macro couleur, macros de
            couleurs, couleurs predefinies
        """,
        F.SHUTTER: """
            obturateur, vitesse du stroboscope, eclair, frequence du stroboscope, frequence
            stroboscope, vitesse stroboscope, vitesse strobe, effet stroboscope, effet strobe,
            strobo, stroboscope
        """,
        F.SPEED: """
            vitesse des mouvements, vitesse de mouvement, vitesse, vitesse pan tilt, vitesse
            moteurs, vitesse de deplacement
        """,
        F.PROGRAM: """
            programmes, programme automatique, programmes automatiques, effets, effet, selection
            programme, choix du programme, programmes internes, programmes auto, programme interne,
            mode automatique
        """,
        F.SOUND: """
            musique, sensibilite du micro, mode musical, detection musicale, sensibilite,
            sensibilite audio, sensibilite sonore, micro
        """,
        F.RESET: """
            fonctions speciales, reinitialisation, fonctions, reglages, commandes speciales, remise
            a zero
        """,
        F.FUNCTION_SPEED: """
            vitesse des programmes, vitesse du programme, vitesse des effets, vitesse programmes,
            vitesse programme, vitesse des macros, vitesse effets
        """,
        F.FAN: "ventilateur, vitesse du ventilateur",
        F.OUTPUT: "fumee, brouillard, debit",
        F.OTHER: "non utilise, reserve, courbe de gradation, courbe dimmer, courbe, libre",
    },
    heads={
        "channel number": "canal, canaux, numero",
        "function": "fonction, fonctions, nom, parametre",
        "levels": "valeur, valeurs, plage, plages",
        "meaning": "effet, remarque",
        "default": "defaut",
        "leave out": "pourcentage",
    },
    fillers="de, la, le, les, du, general, generale, totale, reglage",
    channel="canal",
    channels="canaux",
    address="adresse",
    first="de départ",
    mode="mode",
    fine="fin, fins",
    coarse="grossier, gros",
    cell="tête, cellule, anneau",
    lamp="lampe, ampoule",
    verbs="est",
    like="comme, idem",
    each="chacun, chaque",
    total="au total, totale",
    and_so_on="et ainsi de suite",
    up_to_this="jusqu'à",
    default="par défaut, défaut",
    unused="""
        inutilisé, inutilisée, inutilise, inutilisee, non utilisé, non utilisée, non utilise, non
        utilisee, réservé, réservée, libre
    """,
    labels="pagina, etape, scene",
    counted="couleur, couleurs, motif, programme, programmes, effet, effets",
    joints="et",
    up_to="à, a, au",
    start="de, entre",
    up_to_and_with="jusqu'à, jusqu'a",
    below="moins de",
    beginning_with="à partir de",
    above="plus de",
    and_up="et plus",
    speed="vitesse",
    rotation="rotation",
    continued="suite",
    page="page",
    of_pages="sur, de",
    glue="de, du",
    numbers="deux, trois, quatre, cinq, six, sept, huit, neuf, dix, onze, douze",
    ordinals="""
        premier, deuxième, troisième, quatrième, cinquième, sixième, septième, huitième, neuvième,
        dixième
    """,
)
