"""Portuguese."""

from __future__ import annotations

from fence.core.charts.words.language import Language
from fence.core.model.profile import Function

F = Function

WORDS = Language(
    functions={
        F.DIMMER: """
            brilho, brilho geral, intensidade, intensidade geral, intensidade luminosa,
            luminosidade, brilho total, dimmer geral
        """,
        F.RED: "vermelho",
        F.GREEN: "verde",
        F.BLUE: "azul",
        F.WHITE: "branco quente, branco frio, luz branca, branco",
        F.AMBER: "laranja, ambar",
        F.UV: "ultravioleta",
        F.YELLOW: "amarelo",
        F.CCT: "temperatura de cor, temp de cor, temperatura",
        F.PAN: "movimento horizontal, rotacao horizontal, movimento pan",
        F.TILT: "movimento vertical, inclinacao, rotacao vertical, movimento tilt",
        F.ZOOM: "angulo do feixe",
        F.FOCUS: "focagem, foco",
        F.FROST: "difusao",
        F.GOBO: "roda de gobos, selecao de gobo, roda de gobo, disco de gobos",
        F.GOBO_ROTATION: "rotacao do gobo, rotacao gobo",
        F.PRISM: "rotacao do prisma, prisma",
        F.COLOUR_WHEEL: """
            roda de cores, cores, roda de cor, macros de cor, selecao de cor, cores predefinidas
        """,
        F.SHUTTER: """
            velocidade do estrobo, velocidade estrobo, efeito estroboscopico, efeito estrobo,
            estroboscopo
        """,
        F.SPEED: """
            velocidade, velocidade do movimento, velocidade de movimento, velocidade pan tilt,
            velocidade dos motores, velocidade de pan tilt
        """,
        F.PROGRAM: """
            efeitos, efeitos automaticos, selecao de programa, programa automatico, programa,
            programas
        """,
        F.SOUND: """
            som, microfone, sensibilidade do microfone, sensibilidade, sensibilidade do audio, modo
            som, musica
        """,
        F.RESET: "funcoes especiais, funcoes, reiniciar, redefinir, controles especiais",
        F.FUNCTION_SPEED: """
            velocidade dos efeitos, velocidade dos programas, velocidade programas, velocidade do
            programa, velocidade efeitos, velocidade dos macros
        """,
        F.FAN: "velocidade do ventilador",
        F.OUTPUT: "fumaca, saida, nevoa",
        F.OTHER: "nao usado, curva do dimmer, livre",
    },
    heads={
        "channel number": "canal, canais, numero",
        "function": "funcao, funcoes, nome, parametro",
        "levels": "faixa, valor, valores, intervalo",
        "from": "desde",
        "meaning": "descricao, efeito, observacao",
        "default": "padrao",
        "mode": "modo",
    },
    fillers="de, da, do, dos, a, o, geral, selecao",
    channel="canal",
    channels="canais",
    address="endereço",
    first="inicial",
    mode="modo",
    fine="fino, fina",
    coarse="grosso",
    cell="seção, secção, cabeça, célula, segmento, anel, zona",
    lamp="lâmpada",
    verbs="é",
    like="como, igual",
    each="cada",
    total="total",
    up_to_this="até",
    default="padrão",
    unused="não usado, sem função, livre, reservado",
    labels="passo, cena, pagina",
    counted="programas, efeitos, cores, frame",
    joints="e",
    up_to="a, até",
    start="de, entre",
    up_to_and_with="até",
    below="abaixo de",
    beginning_with="a partir de",
    above="acima de",
    and_up="e acima",
    speed="velocidade",
    rotation="rotação",
    continued="continuação, continua",
    page="página",
    of_pages="de",
    numbers="dois, três, quatro, cinco, seis, sete, oito, nove, dez, onze, doze",
    ordinals="primeiro, segundo, terceiro, quarto, quinto, sexto, sétimo, oitavo, nono, décimo",
)
