"""Slides, read back by the library that others read them with: numbers, gaps, dashes, limits, names; and the image."""

from __future__ import annotations

import io
import re
from datetime import date, timedelta

import numpy as np
import pptx
import pytest
from pptx.enum.chart import XL_CHART_TYPE

from tests.help import result_of, smoothing
from zembra.core.calendar.lines import Condition
from zembra.core.dress.dresswords import Drawn, Runs, Side
from zembra.core.dress.model import FreeNote, Headings, LineDress, Notes, Picture
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.events import Events
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import Figure, FigureSettings
from zembra.core.handover.nativechart import native_chart, native_charts
from zembra.core.handover.slides import picture_pptx, slides_pptx
from zembra.core.ledger.shapes import Area
from zembra.rendering.engine import inks_of, picture_svg
from zembra.rendering.image import png_of

RESULT = result_of(
    "sailings.csv", Outliers(), Blanks(longest=3), Average(window=Window(length=28, need=20)), smoothing(7), Events()
)
GRAIN = RESULT.state.grain
EPOCH = date(1899, 12, 30)  # of the numbers that office suites have for days
HEADINGS = Headings(title="Fewer sail in winter", under="passengers a day")


def figure_of(shown: tuple[str, ...] = ("Outer Isles",), **dress: object) -> Figure:
    picture = Picture(headings=HEADINGS, notes=Notes(source="counts of the piers"), **dress)  # type: ignore[arg-type]
    return picture_figure(RESULT, FigureSettings(shown=shown), picture)


def read(figure: Figure) -> object:
    charts = native_charts(figure, GRAIN, inks_of(figure))
    return pptx.Presentation(io.BytesIO(slides_pptx(charts, "how it looks")))


@pytest.fixture(scope="module")
def slide() -> object:
    deck = read(figure_of())
    (slide,) = deck.slides  # type: ignore[attr-defined]
    return slide


def chart_of(slide: object) -> object:
    (frame,) = [shape for shape in slide.shapes if shape.has_chart]  # type: ignore[attr-defined]
    return frame.chart


def test_its_numbers_are_those_of_the_run_and_gaps_are_gaps(slide: object) -> None:
    areas, lines = chart_of(slide).plots  # type: ignore[attr-defined]
    names = [one.name for one in lines.series]
    assert names[:3] == ["Outer Isles", "Outer Isles, not measured", "28-day average"]
    assert names[-1] == "projection"
    days = [(EPOCH + timedelta(days=float(str(one)))).isoformat() for one in lines.categories]
    line = next(line for line in RESULT.state.lines if line.name == "Outer Isles")
    at = {label: n for n, label in enumerate(GRAIN.labels(line.periods))}
    measured, other = (dict(zip(days, one.values, strict=True)) for one in list(lines.series)[:2])
    gaps = 0
    for label, n in at.items():
        value = measured[label]
        if line.condition[n] == Condition.MEASURED:
            assert value == pytest.approx(line.value[n])
        else:
            gaps += 1
            assert value is None
            estimated = other[label]
            if line.condition[n] == Condition.FILLED:
                assert estimated == pytest.approx(line.value[n])
            if line.condition[n] in (Condition.OPEN, Condition.SET_ASIDE) and not line.bridged[n]:
                assert estimated is None
    assert gaps > 5
    # limits are edges upon each other
    last = [one.values[-1] for one in areas.series]
    projected = [
        shape
        for shape in RESULT.state.shapes
        if isinstance(shape, Area) and shape.series == "Outer Isles" and shape.level
    ]
    widest = max(projected, key=lambda area: area.level or 0)
    assert (last[0], sum(last)) == pytest.approx((widest.lower[-1], widest.upper[-1]))
    assert areas._element.tag.endswith("areaChart")


def test_it_looks_as_it_was_dressed(slide: object) -> None:
    chart = chart_of(slide)
    xml = chart._chartSpace.xml  # type: ignore[attr-defined]
    assert '<c:dispBlanksAs val="gap"/>' in xml
    series = re.findall(r"<c:ser>.*?</c:ser>", xml, re.DOTALL)
    dashed = [one for one in series if 'prstDash val="dash"' in one]
    assert any("not measured" in one for one in dashed)
    assert any(">projection<" in one for one in dashed)
    assert not any("28-day average<" in one and "c:v>28-day average, " not in one for one in dashed)
    for name in ("Outer Isles", "28-day average", "projection"):
        assert f"<a:t>{name}</a:t>" in xml
    assert "<a:t>Outer Isles, not measured</a:t>" not in xml
    told = " ".join(shape.text_frame.text for shape in slide.shapes if shape.has_text_frame)  # type: ignore[attr-defined]
    # what dashes mean stands there, and what is not shown
    for text in (
        "Fewer sail in winter", "passengers a day", "counts of the piers", "as of 31 Oct 2026", "– – filled, projected",
    ):  # fmt: skip
        assert text in told
    assert slide.shapes.title.text_frame.text == "Fewer sail in winter"  # type: ignore[attr-defined]
    notes = slide.notes_slide.notes_text_frame.text  # type: ignore[attr-defined]
    assert notes.startswith("how it looks")
    aside = sum(
        line.condition.tolist().count(Condition.SET_ASIDE) for line in RESULT.state.lines if line.name == "Outer Isles"
    )
    assert f"{aside} values set aside." in notes
    assert 'descr="how it looks"' in slide.shapes._spTree.xml  # type: ignore[attr-defined]
    assert not chart.has_legend  # type: ignore[attr-defined]


def test_several_series_have_a_slide_of_all_and_one_each() -> None:
    deck = read(figure_of(("Outer Isles", "North Head")))
    slides = list(deck.slides)  # type: ignore[attr-defined]
    assert [slide.shapes.title.text_frame.text for slide in slides] == [
        "Fewer sail in winter",
        "Fewer sail in winter: Outer Isles",
        "Fewer sail in winter: North Head",
    ]
    assert len(chart_of(slides[0]).plots) == 1  # type: ignore[attr-defined]
    assert "The limits of 2 lines, each on the chart of its series." in slides[0].notes_slide.notes_text_frame.text
    assert all(len(chart_of(slide).plots) == 2 for slide in slides[1:])  # type: ignore[attr-defined]


def test_the_right_scale_has_axes_of_its_own_and_a_logarithmic_one_says_so() -> None:
    figure = figure_of(("Outer Isles", "North Head"), lines=(LineDress(id="North Head", side=Side.RIGHT),))
    chart = chart_of(next(iter(read(figure).slides)))  # type: ignore[attr-defined]
    xml = chart._chartSpace.xml  # type: ignore[attr-defined]
    assert xml.count("<c:lineChart>") == 2
    assert xml.count("<c:valAx>") == 2
    left, right = re.findall(r"<c:lineChart>.*?</c:lineChart>", xml, re.DOTALL)
    assert "North Head" not in left
    assert "Outer Isles<" not in right
    figure = figure_of(left={"runs": Runs.LOG})
    assert '<c:logBase val="10"/>' in chart_of(next(iter(read(figure).slides)))._chartSpace.xml  # type: ignore[attr-defined]


def test_what_it_cannot_draw_is_said() -> None:
    lines = (LineDress(id="Outer Isles", drawn=Drawn.BARS),)
    free = (FreeNote(text="new pier", at=0, value=1.0),)
    picture = Picture(lines=lines, free=free)
    settings = FigureSettings(shown=("Outer Isles",))
    figure = picture_figure(result_of("sailings.csv", smoothing(7)), settings, picture)
    chart = native_chart(figure, GRAIN, inks_of(figure))
    assert {"How Outer Isles is drawn: here as lines.", "1 note on the chart."} <= set(chart.left_out)
    # limits: of 80 % within those of 95 %, the inner ones stronger
    assert [round(edge.strength, 2) for edge in chart.edges] == [0.0, 0.16, 0.32, 0.16]


def test_a_gap_that_is_drawn_across_lies_on_the_straight_line() -> None:
    bridged = result_of("sailings.csv", Blanks(treatment={"kind": "bridge"}, longest=30))
    picture = Picture()
    figure = picture_figure(bridged, FigureSettings(shown=("Outer Isles",)), picture)
    solid, dashed, *_ = native_chart(figure, bridged.state.grain, inks_of(figure)).columns
    line = next(line for line in bridged.state.lines if line.name == "Outer Isles")
    places = np.flatnonzero(line.bridged & np.isnan(line.value))
    assert places.size
    known = np.flatnonzero(~np.isnan(line.value))
    expected = np.interp(line.periods[places], line.periods[known], line.value[known])
    inside = (places > known[0]) & (places < known[-1])
    assert [dashed.value[n] for n in places[inside]] == pytest.approx(expected[inside].tolist())
    assert all(solid.value[n] is None for n in places)


def test_the_picture_as_an_image_fills_its_slide() -> None:
    figure = figure_of()
    png = png_of(picture_svg(figure), (1280, 720))
    deck = pptx.Presentation(io.BytesIO(picture_pptx(png, (1280, 720), "how it looks")))
    (slide,) = deck.slides
    (image,) = slide.shapes
    assert (image.width, image.height) == (deck.slide_width, deck.slide_height)
    assert image.image.blob == png
    assert XL_CHART_TYPE.LINE  # the other kind has a chart, this one an image only
    assert not image.has_chart
