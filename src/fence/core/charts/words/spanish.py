"""Spanish."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: """
            intensidad, intensidad general, atenuador, brillo, brillo general, luminosidad,
            regulador, intensidad luminosa, brillo total, dimmer total
        """,
        F.RED: "rojo",
        F.GREEN: "verde",
        F.BLUE: "azul",
        F.WHITE: "blanco, blanco calido, blanco frio, blanco neutro, luz blanca",
        F.AMBER: "naranja, ambar",
        F.UV: "ultravioleta",
        F.CYAN: "cian",
        F.YELLOW: "amarillo",
        F.CCT: "temperatura de color, temperatura del color, temp color, temperatura",
        F.PAN: "movimiento horizontal, paneo, movimiento pan, giro horizontal",
        F.TILT: "movimiento vertical, inclinacion, movimiento tilt, giro vertical",
        F.ZOOM: "angulo del haz, angulo de haz, apertura del haz",
        F.FOCUS: "enfoque, foco",
        F.FROST: "difusor, difusion, filtro frost",
        F.GOBO: "rueda de gobos, rueda gobo, seleccion de gobo, gobos fijos",
        F.GOBO_ROTATION: "rotacion de gobo, giro del gobo, rotacion gobo, rotacion del gobo",
        F.PRISM: "rotacion del prisma, rotacion prisma, prismas, prisma",
        F.COLOUR_WHEEL: """
            rueda de color, seleccion de color, macros de color, colores, rueda de colores, rueda
            colores, seleccion de colores, colores predefinidos
        """,
        F.SHUTTER: """
            estrobo, frecuencia de estrobo, velocidad de estrobo, efecto estrobo, efecto
            estroboscopico, estroboscopico, velocidad estrobo, obturador, estroboscopio, destello,
            strobo
        """,
        F.SPEED: """
            velocidad, velocidad de movimiento, velocidad pan tilt, velocidad de los motores,
            velocidad motores
        """,
        F.PROGRAM: """
            efectos, seleccion de programa, funcion auto, efectos automaticos, programas, programas
            automaticos, programa, programas internos, programas auto, modo automatico, modo auto
        """,
        F.SOUND: """
            sonido, sensibilidad, sensibilidad de audio, modo sonido, sensibilidad al sonido, modo
            audio, audio ritmico, sensibilidad del microfono, musica, microfono
        """,
        F.RESET: """
            funciones especiales, reinicio, reinicializar, ajustes, restablecer, control especial
        """,
        F.FUNCTION_SPEED: """
            velocidad de programas, velocidad del programa, velocidad de efectos, velocidad de los
            efectos, velocidad programas, velocidad programa, velocidad efectos, velocidad de
            macros, velocidad de los programas
        """,
        F.FAN: "ventilador, velocidad del ventilador",
        F.OUTPUT: "humo, salida, vapor, rele",
        F.OTHER: "sin uso, sin funcion, reservado, curva de dimmer, curva, curva dimmer",
    },
    heads={
        "channel number": "canal, canales, numero",
        "function": "funcion, funciones, nombre, parametro",
        "levels": "valor, valores, rango, rangos, intervalo",
        "from": "desde",
        "to": "hasta",
        "meaning": "descripcion, resultado, efecto, significado",
        "default": "defecto",
        "mode": "modo",
        "leave out": "porcentaje",
    },
    fillers="de, la, el, los, las, seleccion, regulacion, ajuste, general, total",
    channel="canal",
    channels="canales",
    address="dirección",
    first="inicial",
    mode="modo",
    fine="fino, fina, precisión, afinado",
    coarse="grueso",
    cell="cabezal, cabeza, celda, zona, segmento, anillo, anel",
    lamp="lámpara",
    verbs="es",
    like="como, igual",
    each="cada uno",
    total="total",
    and_so_on="y así sucesivamente",
    up_to_this="hasta",
    default="por defecto",
    unused="libre, sin uso, sin función, reservado, vacío",
    labels="paso, escena, pagina",
    counted="programa, programas, efecto, efectos, colores",
    joints="y",
    up_to="a, al, hasta, y",
    start="de, del, desde, entre",
    up_to_and_with="hasta",
    beginning_with="desde, a partir de",
    and_up="y más",
    speed="velocidad",
    rotation="rotación",
    continued="continuación",
    page="página, pag",
    of_pages="de",
    glue="de",
    numbers="dos, tres, cuatro, cinco, seis, siete, ocho, nueve, diez, once, doce",
    ordinals="""
        primer/primero, segundo, tercer/tercero, cuarto, quinto, sexto, séptimo, octavo, noveno,
        décimo
    """,
)
