"""What the bench shows is what a picture hands over: the same strokes, dashes and polygons through the same numbers."""

from __future__ import annotations

import re
from datetime import date
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np
import pytest
from defusedxml.ElementTree import fromstring

from tests.drawing.test_drawing import drawn
from tests.help import daily_csv, run_csv
from zembra.core.dress.model import Picture
from zembra.core.entries.projections.clauses.methods import LastSeason
from zembra.core.entries.projections.clauses.projected import AheadPeriods, SeasonOf
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.levels import AtValue
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.readings.marks import Marks
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.blanks import Bridged
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.figure.build import build_figure
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import FigureSettings, Shape
from zembra.core.ledger.entry import Entry
from zembra.rendering.engine import picture_svg

AHEAD = Projection(ahead=AheadPeriods(count=20), method=LastSeason(), season=SeasonOf(season=7))
STUDIES: dict[str, tuple[Entry, ...]] = {
    "as it came": (),
    "filled, set aside, provisional": (Outliers(), Blanks(), Provisional(rule=LastFew(last=4))),
    "set aside and bridged": (Outliers(), Blanks(treatment=Bridged())),
    "a reading and a band": (Average(window=Window(length=7, need=3)), Band(window=Window(length=7, need=3))),
    "a trend line": (Trend(),),
    "projected": (Blanks(), AHEAD),
}
Ink = list[tuple[str, np.ndarray]]


def corners(d: str) -> np.ndarray:
    numbers = [float(one) for one in re.findall(r"-?\d+(?:\.\d+)?", d)]
    return np.array(numbers).reshape(-1, 2)


def ink_of(paths: list[dict[str, Any]]) -> Ink:
    """What is drawn over time: (dashes of a stroke, or that it is filled, corners), the largest first where alike."""
    told = [
        (str(path.get("stroke-dasharray") or "whole") if path["fill"] == "none" else "filled", corners(path["d"]))
        for path in paths
        # marks at points have sizes of their own
        if path["fill"] == "none" or "stroke" not in path
    ]
    return sorted(told, key=lambda one: (one[0], one[1].tolist()))


def on_bench(figure: dict[str, Any]) -> Ink:
    groups = [node for node in drawn(figure) if node["tag"] == "g"]
    return ink_of([node["attributes"] for group in groups for node in group["children"] if node["tag"] == "path"])


def in_picture(svg: str) -> Ink:
    def paths(element: Element) -> list[dict[str, Any]]:
        return [one.attrib for one in element.iter() if one.tag.endswith("}path")]

    lines = [one for one in fromstring(svg).iter() if "data-line" in one.attrib]
    return ink_of([path for line in lines for path in paths(line)])


@pytest.mark.parametrize("shape", [Shape.STRAIGHT, Shape.HELD])
@pytest.mark.parametrize("study", STUDIES)
def test_the_bench_shows_what_a_picture_hands_over(study: str, shape: Shape) -> None:
    rng = np.random.default_rng(1)
    values = (100 + 8 * np.sin(np.arange(90) * 2 * np.pi / 7) + rng.normal(0, 2, 90)).round(1).tolist()
    cells = [None if n in (20, 21) else (400 if n == 60 else v) for n, v in enumerate(values)]
    result = run_csv(daily_csv(cells), *STUDIES[study])
    settings = FigureSettings(shape=shape)
    bench = on_bench(build_figure(result, settings).model_dump(mode="json"))
    picture = in_picture(picture_svg(picture_figure(result, settings, Picture())))
    kinds = [kind for kind, _ in bench if kind in ("filled", "4 3", "9 2", "2 2", "6 4", "3 3")]
    assert kinds == [kind for kind, _ in picture if kind in ("filled", "4 3", "9 2", "2 2", "6 4", "3 3")]
    # both hold the same corners, but for where the plot stands and how large it is
    ours, theirs = np.vstack([at for _, at in bench]), np.vstack([at for _, at in picture])
    assert ours.shape == theirs.shape
    for axis in (0, 1):
        x, y = np.sort(ours[:, axis]), np.sort(theirs[:, axis])
        slope, start = np.polyfit(x, y, 1)
        assert slope > 0
        np.testing.assert_allclose(start + slope * x, y, atol=0.1)


PLACED = (
    Shift(on=date(2026, 2, 15), season=None),
    Marks.model_validate({"against": {"kind": "number", "number": 106}}),
    HeldLine(at=AtValue(value=100.0)),
)


def test_what_stands_at_places_stands_at_the_same_ones() -> None:
    """Rings, uprights and level lines of the bench and of a picture, but for where the plot stands and how large it is."""
    values = (100 + 8 * np.sin(np.arange(90) * 2 * np.pi / 7)).round(1).tolist()
    result = run_csv(daily_csv(values), *PLACED)
    bench = drawn(build_figure(result, FigureSettings()).model_dump(mode="json"))
    root = fromstring(picture_svg(picture_figure(result, FigureSettings(), Picture())))
    in_lines = [one for group in root.iter() if "data-line" in group.attrib for one in group.iter()]
    picture = [{"tag": one.tag.split("}")[1], "attributes": one.attrib} for one in in_lines]

    def rings(nodes: list[dict[str, Any]]) -> np.ndarray:
        found = [
            node["attributes"] for node in nodes if node["tag"] == "circle" and node["attributes"]["fill"] == "none"
        ]
        return np.array([(float(one["cx"]), float(one["cy"])) for one in found])

    def lines(nodes: list[dict[str, Any]], along: str) -> list[tuple[float, ...]]:
        found = [
            node["attributes"] for node in nodes if node["tag"] == "line" and node["attributes"].get("stroke-dasharray")
        ]
        return [
            tuple(float(one[end]) for end in ("x1", "y1", "x2", "y2"))
            for one in found
            if one[f"{along}1"] == one[f"{along}2"]
        ]

    ours, theirs = rings(bench), rings(picture)
    assert len(ours) == len(theirs) > 10
    upright, level = (np.array([lines(nodes, along)[0] for nodes in (bench, picture)]) for along in ("x", "y"))
    for axis, at in ((0, upright[:, 0]), (1, level[:, 1])):
        slope, start = np.polyfit(ours[:, axis], theirs[:, axis], 1)
        np.testing.assert_allclose(start + slope * ours[:, axis], theirs[:, axis], atol=0.1)
        assert start + slope * at[0] == pytest.approx(at[1], abs=0.1)
