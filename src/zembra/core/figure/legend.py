"""Signs of conditions: a letter, a word and a texture each."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

import numpy as np
from pydantic import BaseModel

from zembra.core.arithmetic.arrays import Bools, Codes
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Condition, Received
from zembra.core.dress.language import Speech
from zembra.core.figure.parts.models import AnyView


class Texture(StrEnum):
    """The texture of a condition, independent of colour."""

    SOLID = "solid"
    HATCHED = "hatched"
    UPRIGHT = "upright"
    OUTLINED = "outlined"
    STRUCK = "struck"


class Sign(BaseModel):
    """How a condition is shown.

    codes: letters in figures
    word: text on the screen
    tone: role of its colour
    gap: pixels between stripes
    glyph: in the key of a picture
    meaning: tooltip
    """

    codes: str
    word: str
    texture: Texture
    tone: str
    gap: int
    glyph: str
    meaning: str


def _sign(codes: str, word: str, texture: Texture, tone: str, glyph: str, meaning: str, gap: int = 4) -> Sign:
    return Sign(codes=codes, word=word, texture=texture, tone=tone, gap=gap, glyph=glyph, meaning=meaning)


SIGNS = (
    _sign("m", "measured", Texture.SOLID, "lagoonSoft", "━", "a number came in"),
    _sign("f", "filled", Texture.HATCHED, "lagoon", "◇", "an estimate, which counts"),
    _sign("b", "bridged", Texture.HATCHED, "lagoonSoft", "╌", "drawn across, without a value", 6),
    _sign("o", "blank", Texture.STRUCK, "muted", "", "a row came without a number"),
    _sign("n", "absent", Texture.OUTLINED, "ink", "", "no row came"),
    _sign("u", "unreadable", Texture.HATCHED, "ember", "", "the text of the cell is no number", 3),
    _sign("st", "set aside", Texture.SOLID, "ember", "○", "kept, and not counted"),
    _sign("a", "adjusted", Texture.SOLID, "lagoon", "△", "a measured value that was changed"),
    _sign("p", "provisional", Texture.UPRIGHT, "wheat", "▥", "not complete yet"),
    _sign("q", "resting on provisional", Texture.HATCHED, "lagoonSoft", "┅", "computed from what is not complete"),
    _sign("j", "projected", Texture.HATCHED, "iris", "▨", "has not happened yet", 6),
)

# limits of a projection beyond what could be held against what happened
UNTESTED = "y"


def signs_for(shapes: Sequence[AnyView], grain: Grain, speech: Speech | None = None) -> list[Sign]:
    """Return the legend of a figure in the reader's language; projections tell how far limits were tested."""
    speech = speech or Speech()
    signs = [sign.model_copy(update={"word": speech.say(sign.word)}) for sign in SIGNS]
    areas = [shape for shape in shapes if shape.shape == "area" and shape.tested is not None]
    if not areas:
        return signs
    least, most = (pick(area.tested or 0 for area in areas) for pick in (min, max))
    every = all((area.tested or 0) >= len(area.t) for area in areas)
    if not most:
        word = speech.say("projected, limits untested")
    elif every:
        word = speech.say("projected, limits tested")
    else:
        far = speech.span(least, most, grain.unit.value, grain.singular, grain.plural)
        word = speech.say("projected, limits tested {far} ahead", far=far)
    found = [sign.model_copy(update={"word": word}) if sign.codes == "j" else sign for sign in signs]
    if most and not every:
        beyond = "limits beyond what could be held against what happened"
        found.append(_sign(UNTESTED, speech.say("limits beyond, untested"), Texture.HATCHED, "iris", "▨", beyond, 9))
    return found


_CONDITION = np.array(list("mofsap"))
_RECEIVED = np.array(list("mbau"))


def point_codes(condition: Codes, bridged: Bools, received: Codes) -> str:
    """Return one letter per point. Open points tell what was received; t is set aside and bridged."""
    codes = _CONDITION[condition]
    is_open = condition == Condition.OPEN
    codes = np.where(is_open & (received == Received.ABSENT), "n", codes)
    codes = np.where(is_open & (received == Received.UNREADABLE), "u", codes)
    codes = np.where(bridged & is_open, "b", codes)
    codes = np.where(bridged & (condition == Condition.SET_ASIDE), "t", codes)
    return "".join(codes.tolist())


def received_codes(received: Codes) -> str:
    """Return one letter per point for what was received: measured, blank, absent, unreadable."""
    return "".join(_RECEIVED[received].tolist())
