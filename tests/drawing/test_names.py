"""Names and lines on the bench: none lies on another, on the line or below the axis; one projection is one line."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.drawing.test_drawing import drawn, in_pixels, inked, is_drawn, js, texts
from tests.help import run_values
from zembra.core.entries.projections.clauses.methods import LastSeason
from zembra.core.entries.projections.clauses.projected import AheadPeriods, SeasonOf
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.clauses.levels import AtValue
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.readings.marks import Marks
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.entry import Entry

BOTTOM = 400 - 26  # of the plot, in pixels
ROW, ASCENT, SIZE = 14, 0.85, 11.5


def scene_of(values: list[float], *entries: Entry, **words: Any) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    figure = build_figure(run_values(values, *entries), FigureSettings(**words)).model_dump(mode="json")
    return figure, drawn(figure)


def names_inside(nodes: list[dict[str, Any]]) -> list[tuple[float, float, str]]:
    """(left, upper edge, text) of labels of marked points: what is written between the axis and the names at the ends of
    lines, with a rim in the colour of the ground."""
    return [
        (at["x"], at["y"] - ASCENT * at["font-size"], node["text"])
        for node in nodes
        if node["tag"] == "text" and (at := node["attributes"]).get("stroke-width") == 3 and at["x"] < 900 - 150
    ]


@settings(max_examples=25)
@given(st.integers(0, 10_000), st.integers(20, 300), st.floats(0.5, 60))
def test_names_of_marks_keep_off_each_other_off_the_line_and_above_the_axis(
    seed: int, size: int, spread: float
) -> None:
    values = np.random.default_rng(seed).normal(100, spread, size).round(1)
    above = float(np.quantile(values, 0.9))
    figure, nodes = scene_of(values.tolist(), Marks.model_validate({"against": {"kind": "number", "number": above}}))
    names = [name for name in names_inside(nodes) if "left out" not in name[2]]
    widths = js("names.map((text) => zembra.widthOf(text, size))", names=[text for _, _, text in names], size=SIZE)
    boxes = [(left, left + width, y) for (left, y, _), width in zip(names, widths, strict=True)]
    for n, (left, right, y) in enumerate(boxes):
        assert y + 12 <= BOTTOM
        for other_left, other_right, other_y in boxes[n + 1 :]:
            assert left >= other_right or right <= other_left or abs(y - other_y) >= ROW
    told = sum(bool(text) for one in figure["shapes"] if one["shape"] == "points" for text in one["labels"])
    missing = [text for text in texts(nodes) if "left out; closer there is room" in text]
    assert told == len(names) + (int(missing[0].split()[0]) if missing else 0)


@pytest.mark.parametrize("size", [400, 1200, 3000])
def test_a_projection_is_drawn_through_every_one_of_its_values(size: int) -> None:
    """Never through means of some: at any width it is the line that the values table has."""
    wave = (100 + 20 * np.sin(np.arange(size) * 2 * np.pi / 7)).round(2).tolist()
    ahead = Projection(ahead=AheadPeriods(count=90), method=LastSeason(), season=SeasonOf(season=7))
    figure, nodes = scene_of(wave, ahead)
    (curve,) = [one for one in figure["shapes"] if one["shape"] == "curve"]
    wanted = [place for place in in_pixels(figure, curve) if place[1] == place[1]]
    assert len(wanted) >= 90
    corners = inked(nodes)
    assert all(is_drawn(place, corners) for place in wanted)


def test_a_held_line_at_a_round_number_is_seen_over_the_grid() -> None:
    _, nodes = scene_of([float(n) for n in range(0, 200)], HeldLine(at=AtValue(value=100.0)))
    lines = [node["attributes"] for node in nodes if node["tag"] == "line"]
    long = [line for line in lines if line["x2"] - line["x1"] > 400]
    under, over = (line for line in long if line["stroke-width"] in (3.2, 1.2))
    ends = ("x1", "y1", "x2", "y2")
    assert [under[name] for name in ends] == [over[name] for name in ends]
    # the grid lies behind both
    grid = [line for line in long if line["stroke-width"] == 1]
    assert max(map(long.index, grid)) < long.index(under) < long.index(over)
