"""Translations of the fixed texts in a picture. A house style can override them.

Keys are the English words; a language that is not here keeps these. `{n}` and the like stand for what is filled in.
"""

from __future__ import annotations

PHRASES: dict[str, dict[str, str]] = {
    "de": {
        "filled": "ergänzt",
        "bridged": "überbrückt",
        "set aside": "ausgenommen",
        "adjusted": "angepasst",
        "provisional": "vorläufig",
        "resting on provisional": "beruht auf Vorläufigem",
        "projected": "projiziert",
        "projected, limits untested": "projiziert, Grenzen ungeprüft",
        "projected, limits tested": "projiziert, Grenzen geprüft",
        "projected, limits tested {far} ahead": "projiziert, Grenzen geprüft für {far} im Voraus",
        "limits beyond, untested": "Grenzen darüber hinaus, ungeprüft",
        "as of {day}": "Stand {day}",
        "thousands": "Tausend",
        "millions": "Millionen",
        "index, {day} = 100": "Index, {day} = 100",
        "not from zero": "nicht ab null",
        "{n} values lie below": "Werte darunter: {n}",
        "{n} values lie above": "Werte darüber: {n}",
        "{n} labels left out for want of room": "aus Platzmangel weggelassene Beschriftungen: {n}",
        "Nothing is in the picture.": "Nichts ist im Bild.",
        "Two scales that differ: {left} at the left, {right} at the right.": (
            "Zwei verschiedene Skalen: links {left}, rechts {right}."
        ),
        "{n} values lie below the left scale.": "Werte unter der linken Skala: {n}.",
        "{n} values lie above the left scale.": "Werte über der linken Skala: {n}.",
        "{n} values lie below the right scale.": "Werte unter der rechten Skala: {n}.",
        "{n} values lie above the right scale.": "Werte über der rechten Skala: {n}.",
        "{n} values of zero or below have no place on a logarithmic scale.": (
            "Werte von null oder darunter, ohne Platz auf einer logarithmischen Skala: {n}."
        ),
        "{name} has no number there to be the hundred.": "{name} hat dort keine Zahl, die das Hundert wäre.",
        "{names} and {n} more": "{names} und {n} weitere",
    },
    "fr": {
        "filled": "complété",
        "bridged": "relié",
        "set aside": "écarté",
        "adjusted": "ajusté",
        "provisional": "provisoire",
        "resting on provisional": "fondé sur du provisoire",
        "projected": "projeté",
        "projected, limits untested": "projeté, limites non vérifiées",
        "projected, limits tested": "projeté, limites vérifiées",
        "projected, limits tested {far} ahead": "projeté, limites vérifiées à {far}",
        "limits beyond, untested": "limites au-delà, non vérifiées",
        "as of {day}": "situation au {day}",
        "thousands": "milliers",
        "millions": "millions",
        "index, {day} = 100": "indice, {day} = 100",
        "not from zero": "ne part pas de zéro",
        "{n} values lie below": "valeurs au-dessous : {n}",
        "{n} values lie above": "valeurs au-dessus : {n}",
        "{n} labels left out for want of room": "étiquettes omises faute de place : {n}",
        "Nothing is in the picture.": "Il n’y a rien dans l’image.",
        "Two scales that differ: {left} at the left, {right} at the right.": (
            "Deux échelles différentes : {left} à gauche, {right} à droite."
        ),
        "{n} values lie below the left scale.": "Valeurs au-dessous de l’échelle de gauche : {n}.",
        "{n} values lie above the left scale.": "Valeurs au-dessus de l’échelle de gauche : {n}.",
        "{n} values lie below the right scale.": "Valeurs au-dessous de l’échelle de droite : {n}.",
        "{n} values lie above the right scale.": "Valeurs au-dessus de l’échelle de droite : {n}.",
        "{n} values of zero or below have no place on a logarithmic scale.": (
            "Valeurs nulles ou négatives, sans place sur une échelle logarithmique : {n}."
        ),
        "{name} has no number there to be the hundred.": "{name} n’y a pas de nombre qui serait le cent.",
        "{names} and {n} more": "{names} et {n} autres",
    },
    "es": {
        "filled": "completado",
        "bridged": "enlazado",
        "set aside": "apartado",
        "adjusted": "ajustado",
        "provisional": "provisional",
        "resting on provisional": "basado en lo provisional",
        "projected": "proyectado",
        "projected, limits untested": "proyectado, límites sin comprobar",
        "projected, limits tested": "proyectado, límites comprobados",
        "projected, limits tested {far} ahead": "proyectado, límites comprobados a {far}",
        "limits beyond, untested": "límites más allá, sin comprobar",
        "as of {day}": "a fecha de {day}",
        "thousands": "miles",
        "millions": "millones",
        "index, {day} = 100": "índice, {day} = 100",
        "not from zero": "no parte de cero",
        "{n} values lie below": "valores por debajo: {n}",
        "{n} values lie above": "valores por encima: {n}",
        "{n} labels left out for want of room": "rótulos omitidos por falta de espacio: {n}",
        "Nothing is in the picture.": "No hay nada en la imagen.",
        "Two scales that differ: {left} at the left, {right} at the right.": (
            "Dos escalas distintas: {left} a la izquierda, {right} a la derecha."
        ),
        "{n} values lie below the left scale.": "Valores por debajo de la escala izquierda: {n}.",
        "{n} values lie above the left scale.": "Valores por encima de la escala izquierda: {n}.",
        "{n} values lie below the right scale.": "Valores por debajo de la escala derecha: {n}.",
        "{n} values lie above the right scale.": "Valores por encima de la escala derecha: {n}.",
        "{n} values of zero or below have no place on a logarithmic scale.": (
            "Valores nulos o negativos, sin lugar en una escala logarítmica: {n}."
        ),
        "{name} has no number there to be the hundred.": "{name} no tiene allí un número que sea el cien.",
        "{names} and {n} more": "{names} y {n} más",
    },
    "pl": {
        "filled": "uzupełnione",
        "bridged": "połączone",
        "set aside": "wyłączone",
        "adjusted": "skorygowane",
        "provisional": "wstępne",
        "resting on provisional": "oparte na wstępnych",
        "projected": "prognozowane",
        "projected, limits untested": "prognozowane, granice niesprawdzone",
        "projected, limits tested": "prognozowane, granice sprawdzone",
        "projected, limits tested {far} ahead": "prognozowane, granice sprawdzone na {far} naprzód",
        "limits beyond, untested": "granice dalej, niesprawdzone",
        "as of {day}": "stan na {day}",
        "thousands": "tysiące",
        "millions": "miliony",
        "index, {day} = 100": "indeks, {day} = 100",
        "not from zero": "nie od zera",
        "{n} values lie below": "wartości poniżej: {n}",
        "{n} values lie above": "wartości powyżej: {n}",
        "{n} labels left out for want of room": "etykiety pominięte z braku miejsca: {n}",
        "Nothing is in the picture.": "Na obrazie nic nie ma.",
        "Two scales that differ: {left} at the left, {right} at the right.": (
            "Dwie różne skale: {left} z lewej, {right} z prawej."
        ),
        "{n} values lie below the left scale.": "Wartości poniżej lewej skali: {n}.",
        "{n} values lie above the left scale.": "Wartości powyżej lewej skali: {n}.",
        "{n} values lie below the right scale.": "Wartości poniżej prawej skali: {n}.",
        "{n} values lie above the right scale.": "Wartości powyżej prawej skali: {n}.",
        "{n} values of zero or below have no place on a logarithmic scale.": (
            "Wartości zerowe lub ujemne, bez miejsca na skali logarytmicznej: {n}."
        ),
        "{name} has no number there to be the hundred.": "{name} nie ma tam liczby, która byłaby setką.",
        "{names} and {n} more": "{names} i {n} innych",
    },
}
# what can be said otherwise
EVERY_PHRASE = tuple(PHRASES["de"])
