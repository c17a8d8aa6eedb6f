"""Names and lines on the bench: none lies on another, on the line or below the axis; one projection is one line."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.drawing.test_drawing import drawn, inked, texts
from tests.help import run_values
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.clauses.levels import AtValue
from zembra.core.ledger.clauses.methods import LastSeason
from zembra.core.ledger.clauses.projected import AheadPeriods, SeasonOf
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.entries.readings.held import HeldLine
from zembra.core.ledger.entries.readings.marks import Marks
from zembra.core.ledger.entry import Entry

BOTTOM = 400 - 26  # of the plot, in pixels
LETTER, ROW = 6.4, 14


def options_of(values: list[float], *entries: Entry, **words: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    figure = build_figure(run_values(values, *entries), FigureSettings(**words)).model_dump(mode="json")
    return figure, drawn(figure)


def names_inside(options: dict[str, Any]) -> list[dict[str, Any]]:
    """Labels of marked points: what is written between the axis and the names at the ends of lines."""
    return [
        one
        for one in options["graphic"]
        if one["type"] == "text" and one["style"].get("lineWidth") == 3 and one["x"] < 900 - 150
    ]


@settings(max_examples=25)
@given(st.integers(0, 10_000), st.integers(20, 300), st.floats(0.5, 60))
def test_names_of_marks_keep_off_each_other_off_the_line_and_above_the_axis(
    seed: int, size: int, spread: float
) -> None:
    values = np.random.default_rng(seed).normal(100, spread, size).round(1)
    above = float(np.quantile(values, 0.9))
    figure, options = options_of(
        values.tolist(), Marks.model_validate({"against": {"kind": "number", "number": above}})
    )
    names = [one for one in names_inside(options) if "left out" not in one["style"]["text"]]
    boxes = [(one["x"], one["x"] + LETTER * len(one["style"]["text"]), one["y"]) for one in names]
    for n, (left, right, y) in enumerate(boxes):
        assert y + 12 <= BOTTOM
        for other_left, other_right, other_y in boxes[n + 1 :]:
            assert left >= other_right or right <= other_left or abs(y - other_y) >= ROW
    told = sum(bool(text) for one in figure["shapes"] if one["shape"] == "points" for text in one["labels"])
    missing = [text for text in texts(options) if "left out; closer there is room" in text]
    assert told == len(names) + (int(missing[0].split()[0]) if missing else 0)


@pytest.mark.parametrize("size", [400, 1200, 3000])
def test_a_projection_is_drawn_through_every_one_of_its_values(size: int) -> None:
    """Never through means of some: at any width it is the line that the values table has."""
    wave = (100 + 20 * np.sin(np.arange(size) * 2 * np.pi / 7)).round(2).tolist()
    ahead = Projection(ahead=AheadPeriods(count=90), method=LastSeason(), season=SeasonOf(season=7))
    figure, options = options_of(wave, ahead)
    (curve,) = [one for one in figure["shapes"] if one["shape"] == "curve"]
    wanted = {(t, v) for t, v in zip(curve["t"], curve["v"], strict=True) if v is not None}
    assert len(wanted) >= 90
    assert wanted <= {(p[0], p[1]) for p in inked(options)}


def test_a_held_line_at_a_round_number_is_seen_over_the_grid() -> None:
    _, options = options_of([float(n) for n in range(0, 200)], HeldLine(at=AtValue(value=100.0)))
    lines = [
        one for one in options["graphic"] if one["type"] == "line" and one["shape"]["x2"] - one["shape"]["x1"] > 400
    ]
    under, over = lines[:2]
    assert under["shape"] == over["shape"]
    assert under["style"]["lineWidth"] > over["style"]["lineWidth"]
    assert under["z"] >= 4
