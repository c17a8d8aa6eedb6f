"""Numbers, dates and the words of the key as a picture's reader writes them, held against Babel and in a drawing."""

from __future__ import annotations

import re
from datetime import date

import pytest
from babel.dates import format_date
from babel.numbers import format_decimal
from fontTools.ttLib import TTFont
from hypothesis import given
from hypothesis import strategies as st

from tests.help import result_of, smoothing
from zembra.core.dress.dresswords import Role, Says, Side
from zembra.core.dress.language import Speech, language_named, languages, own_words
from zembra.core.dress.model import FromDay, HighValue, Language, LineDress, Picture, RightScale, TimeAxis, ValueScale
from zembra.core.dress.phrases import EVERY_PHRASE, PHRASES
from zembra.core.dress.style import in_style, style_of
from zembra.core.english import number
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import FigureSettings
from zembra.rendering.engine import FACES, FONTS, PLAIN, faces, picture_svg

RESULT = result_of("sailings.csv", Outliers(), Provisional(), Trend(), smoothing(7))
FILES = ((FACES[0][2], "woff2"), *((file, "ttf") for *_, file in FACES))
SETTINGS = FigureSettings(shown=("Outer Isles",))


def drawn(language: str, own: str | None = None, **dress: object) -> str:
    picture = Picture(language=Language(language=language, own=own), **dress)  # type: ignore[arg-type]
    return picture_svg(picture_figure(RESULT, SETTINGS, picture))


def texts(svg: str) -> list[str]:
    return re.findall(r"<text[^>]*>([^<]*)</text>", svg)


@given(st.floats(-9e5, 9e5).map(lambda x: round(x, 3)), st.sampled_from(["German", "French", "Spanish", "Polish"]))
def test_a_number_of_a_text_is_as_babel_writes_it(value: float, language: str) -> None:
    speech = Speech(language)
    theirs = format_decimal(value, "#,##0.#########", locale=speech.code).replace("-", "−")
    ours = speech.rewritten(number(value))
    assert re.sub(r"\s", " ", ours) == re.sub(r"\s", " ", theirs)


@given(st.dates(date(1900, 1, 1), date(2100, 12, 31)))
def test_a_date_of_a_text_is_as_babel_writes_it(day: date) -> None:
    speech = Speech("French")
    assert speech.rewritten(f"from {day.day} {day:%b %Y} on") == f"from {format_date(day, 'd MMM y', locale='fr')} on"


def test_every_catalogue_has_every_phrase_with_what_is_filled_in() -> None:
    for phrases in PHRASES.values():
        assert tuple(phrases) == EVERY_PHRASE
        for english, said in phrases.items():
            assert sorted(re.findall(r"{\w+}", english)) == sorted(re.findall(r"{\w+}", said))


def test_a_picture_in_german() -> None:
    scale = ValueScale(high=HighValue(value=400.0))
    lines = (LineDress(id=next(s.id for s in RESULT.state.shapes if s.entry == "t2"), role=Role.CURVE, says=Says.BOTH),)
    time = TimeAxis(start=FromDay(day=date(2025, 10, 1)))
    english, german = (texts(drawn(one, left=scale, lines=lines, time=time)) for one in ("English", "de"))
    assert "Mar" in english
    assert "Mär" in german or "März" in german
    assert any(re.search(r"Stand 31\. Okt\. 2026", text) for text in german)
    assert {"ausgenommen", "vorläufig"} <= set(german)
    assert not {"set aside", "provisional", "Mar", "May", "Oct"} & set(german)
    assert any(text.startswith("projiziert, Grenzen geprüft") for text in german)
    far = Speech("German").span(6, 12, "month", "month", "months")
    said = Speech("German").say("projected, limits tested {far} ahead", far=far)
    assert said == "projiziert, Grenzen geprüft für 6–12 Monate im Voraus"
    assert any(re.fullmatch(r"Werte darüber: \d+", text) for text in german)
    assert any("Werte über der linken Skala" in text for text in german)
    # the equation of the trend line: the same digits, another mark
    equation = next(text for text in english if re.search(r"\d\.\d", text))
    mine = next(text for text in german if re.search(r"\d,\d", text))
    assert re.sub(r"\D", "", equation) == re.sub(r"\D", "", mine)
    assert not any(re.search(r"\d\.\d\d?\b(?!\d)", text) and "Okt" not in text for text in german)


def test_words_said_otherwise_go_along_in_a_house_style() -> None:
    own = "Set aside: verworfen; provisional: noch offen"
    picture = Picture(language=Language(language="German", own=own))
    style = style_of(picture, [])
    other = in_style(Picture(), style, [])
    assert {"verworfen", "noch offen"} <= set(texts(picture_svg(picture_figure(RESULT, SETTINGS, other))))
    # and in English alone
    assert "left out" in texts(drawn("English", "set aside: left out"))
    for wrong in ("verworfen", "no such word: x", "set aside:"):
        with pytest.raises(ValueError, match="is no word of the key"):
            own_words(wrong)


def test_any_language_that_babel_has_draws() -> None:
    assert language_named("pt-br") == "Brazilian Portuguese"
    with pytest.raises(ValueError, match="such as German"):
        language_named("Elvish")
    assert len(languages()) > 200
    for language in ("Finnish", "Japanese", "Arabic", "Greek", "Hindi", "Swiss High German"):
        svg = drawn(language)
        tongue = Speech(language).tongue()
        assert tongue
        assert set(tongue.months) & set(texts(svg))


def test_what_stands_alone_has_the_letters_it_needs() -> None:
    assert "unicode-range" not in faces("größer, déjà")
    assert "unicode-range:U+105,U+142}" in faces("wyłączone")
    # what is not looked up in the faces is in the Latin ones, or in none
    latin, *whole = (TTFont(FONTS / f"{file}.{form}").getBestCmap() for file, form in FILES)
    for letter in PLAIN:
        assert ord(letter) in latin or not any(ord(letter) in known for known in whole)


def test_two_scales_are_told_in_the_reader_s_language() -> None:
    lines = (LineDress(id="Outer Isles", side=Side.RIGHT),)
    two = FigureSettings(shown=("Outer Isles", "North Head"))
    picture = Picture(language=Language(language="French"), lines=lines, right=RightScale())
    page = picture_figure(RESULT, two, picture).page
    assert page
    assert page.warning.startswith("Deux échelles différentes")
