"""The picture as SVG, drawn in an embedded engine: read back by an XML parser, and drawn as an image."""

from __future__ import annotations

import re
from datetime import timedelta
from itertools import pairwise
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np
import pytest
from bs4 import BeautifulSoup
from defusedxml.ElementTree import fromstring

from tests.help import FIRST, run_csv
from zembra.core.dress.dresswords import (
    Drawn,
    Ground,
    Light,
    MadeFor,
    NamedAt,
    PointsAt,
    Runs,
    Side,
    Stroke,
    TextSize,
    Ticks,
    Together,
    ValuesAt,
    Weight,
)
from zembra.core.dress.model import (
    FreeNote,
    FromValue,
    FromZero,
    Headings,
    LineDress,
    Notes,
    Page,
    Picture,
    RightScale,
    TimeAxis,
    ValueScale,
)
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import Arrangement, Figure, FigureSettings, Shape
from zembra.core.handover.report import Section
from zembra.core.ledger.run import Result
from zembra.rendering.engine import picture_svg
from zembra.rendering.image import png_of
from zembra.rendering.page import page_html

SVG = "{http://www.w3.org/2000/svg}"
HOSTILE = (
    "<script>alert(1)</script>",
    "=cmd()|'x'",
    'a"b&c]]>',
    "\u202eخط\u202c",
    "🚢 \ufffe",
    "x" * 300,
    "nul\x00\x0b",
    "'",
)


def studied(names: tuple[str, ...], days: int = 40, zero: bool = False, seed: int = 1) -> Result:
    rng = np.random.default_rng(seed)
    values = rng.normal(100, 9, (days, len(names))).round(1) + np.arange(len(names)) * 4
    if zero:
        values[5, 0] = 0.0
    head = ",".join(["day", *(f"s{n}" for n in range(len(names)))])
    rows = [
        f"{FIRST + timedelta(n)},{','.join('' if n == 12 else str(v) for v in row)}" for n, row in enumerate(values)
    ]
    result = run_csv("\n".join([head, *rows]).encode(), Blanks(), Average(window=Window(length=7, need=4)), HeldLine())
    renamed = {f"s{n}": name for n, name in enumerate(names)}
    lines = tuple(replaced(line, renamed) for line in result.state.lines)
    return type(result)(
        type(result.state)(**{**fields_of(result.state), "lines": lines}), result.base, result.reports, result.readings
    )


def replaced(line: Any, names: dict[str, str]) -> Any:
    return type(line)(**{**fields_of(line), "name": names[line.name]})


def fields_of(one: Any) -> dict[str, Any]:
    return {name: getattr(one, name) for name in one.__dataclass_fields__}


def figure_of(result: Result, settings: FigureSettings | None = None, **words: Any) -> Figure:
    return picture_figure(
        result, settings or FigureSettings(shown=tuple(one.name for one in result.state.lines)), Picture(**words)
    )


def drawn(figure: Figure) -> Element:
    root: Element = fromstring(picture_svg(figure))
    return root


def texts(root: Element) -> dict[str, list[Element]]:
    found: dict[str, list[Element]] = {}
    for one in root.iter(f"{SVG}text"):
        found.setdefault(one.text or "", []).append(one)
    return found


def attribute(one: Element, name: str) -> float:
    return float(one.attrib[name])


def test_points_stand_where_the_scales_say() -> None:
    result = studied(("Harbour Loop",))
    figure = figure_of(
        result, left=ValueScale(low=FromZero()), lines=(LineDress(id="Harbour Loop", points=PointsAt.MEASURED),)
    )
    root = drawn(figure)
    group = next(one for one in root.iter(f"{SVG}g") if one.attrib.get("data-line") == "Harbour Loop")
    dots = [(attribute(one, "cx"), attribute(one, "cy")) for one in group.iter(f"{SVG}circle")]
    line = result.state.lines[0]
    measured = np.flatnonzero(line.condition == 0)
    assert len(dots) == measured.size
    # the grid lines tell the scale: numbers at the left, their heights
    ticks = {
        float(text): attribute(found[0], "y") - 4.2 for text, found in texts(root).items() if re.fullmatch(r"\d+", text)
    }
    slope, start = np.polyfit(list(ticks.keys()), list(ticks.values()), 1)
    np.testing.assert_allclose([y for _, y in dots], start + slope * line.value[measured], atol=0.1)
    steps = np.diff([x for x, _ in dots]) / np.diff(measured)
    np.testing.assert_allclose(steps, steps[0], atol=0.02)
    # what was filled is dashed and hollow in any dress
    dashed = [one for one in group.iter(f"{SVG}path") if one.attrib.get("stroke-dasharray") == "4 3"]
    assert len(dashed) == 1


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_names_are_harmless_and_readable(name: str) -> None:
    result = studied(("a", name))
    words = Headings(title=name, under=name)
    notes = Notes(source=name, footnote=name)
    figure = figure_of(
        result, headings=words, notes=notes, left=ValueScale(counts=name[:200]), time=TimeAxis(closing=name[:60]),
        lines=(LineDress(id="a", called=name, named=NamedAt.KEY),), free=(FreeNote(text=name, at=figure_time(result)),),
    )  # fmt: skip
    svg = picture_svg(figure, about=name, with_fonts=True)
    root = fromstring(svg)
    assert {one.tag.removeprefix(SVG) for one in root.iter()} <= {
        "svg", "desc", "style", "defs", "pattern", "clipPath", "rect", "line", "path", "circle", "g", "text",
    }  # fmt: skip
    core = plain(name)[:3]
    assert core in {plain(text)[:3] for text in texts(root)}
    assert png_of(svg, (1280, 720), 0.25).startswith(b"\x89PNG")


def plain(text: str) -> str:
    return re.sub(r"[^\w🚢'=]", "", text)


def figure_time(result: Result) -> int:
    return int(np.datetime64(str(FIRST + timedelta(9)), "ms").astype(np.int64))


def test_names_of_twelve_lines_do_not_collide_and_lead_back() -> None:
    result = studied(tuple(f"route {n}" for n in range(12)))
    root = drawn(figure_of(result))
    named = [found for text, found in texts(root).items() if re.fullmatch(r"route \d+", text)]
    heights = sorted(attribute(found[0], "y") for found in named)
    assert len(heights) >= 8
    assert min(b - a for a, b in pairwise(heights)) >= 14
    right = max(attribute(found[0], "x") for found in named)
    assert right < 1280


def test_a_log_scale_leaves_zero_out_and_says_so() -> None:
    figure = figure_of(studied(("a",), zero=True), left=ValueScale(runs=Runs.LOG))
    told = " ".join(texts(drawn(figure)))
    assert "1 value of zero or below has no place on a logarithmic scale." in told


def test_a_log_scale_without_a_line_is_drawn() -> None:
    lines = (LineDress(id="a", side=Side.RIGHT),)
    figure = figure_of(studied(("a",)), lines=lines, left=ValueScale(runs=Runs.LOG), right=RightScale(runs=Runs.LOG))
    assert figure.series
    bare = figure.model_copy(update={"shapes": []})
    assert "10" in texts(drawn(bare))


def test_bars_that_do_not_begin_at_zero_say_so() -> None:
    bars = (LineDress(id="a", drawn=Drawn.BARS),)
    result = studied(("a",))
    assert "not from zero" in texts(drawn(figure_of(result, lines=bars, left=ValueScale(low=FromValue(value=50)))))
    root = drawn(figure_of(result, lines=bars))
    assert "not from zero" not in texts(root)
    group = next(one for one in root.iter(f"{SVG}g") if one.attrib.get("data-line") == "a")
    heights = [attribute(one, "height") for one in group.iter(f"{SVG}rect")]
    values = result.state.lines[0].value
    np.testing.assert_allclose(np.array(heights) / heights[0], values / values[0], rtol=2e-3)


def test_two_scales_stand_at_both_sides_and_equal_ones_agree() -> None:
    result = studied(("a", "b"))
    right = (LineDress(id="b", side=Side.RIGHT),)
    equal = drawn(figure_of(result, lines=right, right=RightScale(together=Together.EQUAL)))
    twice = {text: found for text, found in texts(equal).items() if re.fullmatch(r"[\d ]+", text) and len(found) == 2}
    assert len(twice) >= 3
    for left, other in twice.values():
        assert attribute(left, "y") == attribute(other, "y")
    unlike = drawn(figure_of(result, lines=right))
    assert any("Two scales that differ" in text for text in texts(unlike))


def test_a_small_picture_is_readable_and_a_dark_one_is_dark() -> None:
    page = Page(made_for=MadeFor.MILLIMETRES, width=85, height=60, text=TextSize.SMALL)
    figure = figure_of(
        studied(("Harbour Loop", "North Head")), page=page, headings=Headings(title="Two routes, day by day")
    )
    root = drawn(figure)
    width = float(root.attrib["viewBox"].split()[2])
    for one in root.iter(f"{SVG}text"):
        assert 0 <= attribute(one, "x") < width
        # at least six points on paper
        assert attribute(one, "font-size") * figure.page.text * 72 / 96 >= 6  # type: ignore[union-attr]
    assert "Harbour Loop" in texts(root)
    dark = picture_svg(figure_of(studied(("a",)), page=Page(light=Light.DARK)))
    assert "#1A2327" in dark
    clear = drawn(figure_of(studied(("a",)), page=Page(on=Ground.CLEAR)))
    assert all(one.attrib.get("data-part") != "page" for one in clear.iter(f"{SVG}rect"))


@pytest.mark.parametrize("shape", list(Shape))
@pytest.mark.parametrize("arrangement", list(Arrangement))
@pytest.mark.parametrize("runs", list(Runs))
def test_every_shape_arrangement_and_scale_is_drawn(shape: Shape, arrangement: Arrangement, runs: Runs) -> None:
    result = studied(("a", "b", "c"))
    settings = FigureSettings(shown=("a", "b", "c"), shape=shape, arrangement=arrangement)
    lines = tuple(
        LineDress(id=name, drawn=drawn_as, stroke=stroke, values=ValuesAt.ENDS, weight=Weight.HEAVY, named=named)
        for name, drawn_as, stroke, named in (
            ("a", Drawn.AREA, Stroke.DOTTED, NamedAt.START), ("b", Drawn.LINE, Stroke.BOTH, NamedAt.PEAK),
            ("c", Drawn.POINTS, Stroke.DASHED, NamedAt.KEY),
        )
    )  # fmt: skip
    figure = figure_of(result, settings, lines=lines, left=ValueScale(runs=runs), time=TimeAxis(ticks=Ticks.WEEK))
    svg = picture_svg(figure)
    root = fromstring(svg)
    assert "NaN" not in svg
    assert "undefined" not in svg
    assert "Infinity" not in svg
    drawn_lines = {one.attrib.get("data-line") for one in root.iter(f"{SVG}g")} - {None}
    assert {"a", "b", "c"} <= drawn_lines


def test_a_page_has_no_element_that_was_not_meant() -> None:
    """Wherever a text goes: the title, the description, the account, the foot, and the figure's own words."""
    wild = "</script></title><script>alert(1)</script><b>&amp;\"'"
    result = run_csv(f'day,"{wild.replace(chr(34), chr(34) * 2)}"\n2026-01-01,1\n2026-01-02,2\n'.encode())
    figure = picture_figure(result, FigureSettings(), Picture())
    page = page_html(figure, title=wild, about=wild, account=[Section(wild, [wild])], foot=wild)
    soup = BeautifulSoup(page, "html.parser")
    assert soup.find("b") is None
    assert [script.get("type") for script in soup.find_all("script")] == ["application/json", None]
    data, code = soup.find_all("script")
    assert Figure.model_validate_json(data.string or "") == figure
    assert "alert(1)" not in (code.string or "")
    assert soup.title is not None
    assert soup.title.string == wild
    assert (soup.find(id="picture") or {}).get("aria-label") == wild
    assert [item.text for item in soup.find_all("li")] == [wild]
    assert wild in [heading.text for heading in soup.find_all("h2")]
    assert soup.footer is not None
    assert soup.footer.text.startswith(wild)
