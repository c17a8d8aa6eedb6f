"""The drawing and the pure parts of the front end, in an embedded V8, on the bundle that is built for servers."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from py_mini_racer import MiniRacer

from tests.help import daily_csv, run_csv
from zembra.api.views import words_of
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.moves import Moves
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import Arrangement, FigureSettings, Markers, Raw
from zembra.core.ledger.entry import Entry

BUNDLE = Path(__file__).parents[2] / "src" / "zembra" / "drawing" / "drawing.js"
ENGINE = MiniRacer()
ENGINE.eval(BUNDLE.read_text())


def js(expression: str, **given_: Any) -> Any:
    """The value of a JavaScript expression in which the given names stand for values."""
    names = "".join(f"const {name} = {json.dumps(value)};" for name, value in given_.items())
    return json.loads(ENGINE.eval(f"(() => {{{names} return JSON.stringify({expression});}})()"))


def figure_of(*entries: Entry, **settings: Any) -> dict[str, Any]:
    rng = np.random.default_rng(1)
    values = rng.normal(100, 8, 90).round(1).tolist()
    cells = [None if n in (20, 21) else ("?" if n == 40 else (400 if n == 60 else v)) for n, v in enumerate(values)]
    result = run_csv(daily_csv(cells), *entries)
    return build_figure(result, FigureSettings(**settings)).model_dump(mode="json")


FRAME = (
    "{width: 900, height: 400, from: zembra.frame.fullWindow(figure)[0], to: zembra.frame.fullWindow(figure)[1], "
    "palette: zembra.light, font: 'x'}"
)


def drawn(figure: dict[str, Any]) -> list[dict[str, Any]]:
    """Every node of the scene, those in groups too, from the back to the front."""
    return list(within(js(f"zembra.sceneOf(figure, {FRAME})", figure=figure)))


def within(nodes: list[dict[str, Any]]) -> Iterator[dict[str, Any]]:
    for node in nodes:
        yield node
        if node["tag"] != "pattern":
            yield from within(node["children"])


def texts(nodes: list[dict[str, Any]]) -> list[str]:
    """What is written at the ends of lines and in the chart, dates and numbers of the axes left out."""
    return [node["text"] for node in nodes if node["tag"] == "text" and node["attributes"]["font-size"] != 12]


def strokes(nodes: list[dict[str, Any]]) -> list[dict[str, Any]]:
    paths = (node["attributes"] for node in nodes if node["tag"] == "path")
    return [path for path in paths if path["fill"] == "none"]


def inked(nodes: list[dict[str, Any]]) -> set[tuple[float, float]]:
    """Corners of all strokes, in pixels."""
    numbers = (re.findall(r"[ML]([-\d.]+),([-\d.]+)", path["d"]) for path in strokes(nodes))
    return {(float(x), float(y)) for corners in numbers for x, y in corners}


def in_pixels(figure: dict[str, Any], line: dict[str, Any]) -> list[tuple[float, float]]:
    """Where the numbers of a line stand; (x, nan) where there is none."""
    places = js(
        f"(() => {{const [p] = zembra.frame.panelsOf(figure, {FRAME}); return line.t.map((t, n) => "
        "[p.time.toPixel(t), line.v[n] === null ? null : p.value.toPixel(line.v[n])])})()",
        figure=figure,
        line=line,
    )
    return [(x, math.nan if y is None else y) for x, y in places]


def is_drawn(place: tuple[float, float], corners: set[tuple[float, float]]) -> bool:
    """Whether a stroke has a corner there; those are written to a hundredth of a pixel."""
    wanted = {(round(place[0] + dx, 2), round(place[1] + dy, 2)) for dx in (0, 0.01, -0.01) for dy in (0, 0.01, -0.01)}
    return bool(wanted & corners)


def test_the_bundle_holds_no_page_no_react_and_no_component_library() -> None:
    text = BUNDLE.read_text()
    assert len(text) < 90_000
    for word in ("react", "antd", "document.", "window."):
        assert word not in text.lower()


@given(
    st.floats(-1e9, 1e9), st.floats(1e-3, 1e9), st.integers(100, 2000), st.floats(0, 1), st.sampled_from(["linear", "log", "time"])
)  # fmt: skip
def test_a_scale_goes_there_and_back(low: float, span: float, width: int, share: float, kind: str) -> None:
    made = {
        "linear": "zembra.scale.linearScale(zembra.scale.niceRange(low, low + span), [width, 0])",
        "log": "zembra.scale.logScale(Math.abs(low) + 0.001, Math.abs(low) + 0.001 + span, [width, 0])",
        "time": "zembra.scale.timeScale(low, low + span, [0, width])",
    }[kind]
    found = js(
        f"(() => {{const s = {made}; const at = share * width; return [at, s.toPixel(s.toValue(at)), s.ticks.map((t) => "
        "s.toPixel(t.at)), s.domain]})()",
        low=low, span=span, width=width, share=share,
    )  # fmt: skip
    at, again, ticks, _ = found
    assert again == pytest.approx(at, abs=1e-4 * width)
    assert all(-0.5 <= tick <= width + 0.5 for tick in ticks)


@given(st.floats(-1.48e13, 7e12), st.floats(3.6e6, 2.2e13), st.integers(100, 2000))
def test_the_time_axis_is_never_crowded_and_says_years_where_there_are_many(
    low: float, span: float, width: int
) -> None:
    """low, span: from 1500 on, up to 700 years."""
    ticks = js("zembra.scale.timeTicks(low, low + span, width)", low=low, span=span, width=width)
    assert len(ticks) <= max(2, width // 72) + 2
    if span > 3 * 366 * 86_400_000:
        assert any(tick["label"].isdigit() and len(tick["label"]) == 4 for tick in ticks) or len(ticks) < 2


def test_every_measured_number_is_on_a_stroke_and_no_blank_is() -> None:
    figure = figure_of(Outliers(), markers=Markers.ODD)
    nodes = drawn(figure)
    (series,) = figure["series"]
    corners = inked(nodes)
    for place, code in zip(in_pixels(figure, series), series["c"], strict=True):
        if code == "m":
            assert is_drawn(place, corners)
        else:
            assert not any(abs(x - place[0]) < 0.02 for x, _ in corners)
    assert series["c"].count("n") + series["c"].count("o") + series["c"].count("u") == 3
    (ring,) = (node["attributes"] for node in nodes if node["tag"] == "circle")
    at = in_pixels(figure, series)[60]
    # what is set aside keeps the number that came in: its place is above all others
    assert ring["cx"] == pytest.approx(at[0], abs=0.02)
    assert ring["cy"] < min(y for _, y in corners)


def test_what_was_filled_is_dashed_and_what_is_provisional_striped() -> None:
    dashes = [
        path.get("stroke-dasharray") for path in strokes(drawn(figure_of(Blanks(), Provisional(rule=LastFew(last=4)))))
    ]
    assert "4 3" in dashes
    assert "2 2" in dashes


def test_marks_on_points_are_a_choice() -> None:
    def marks(markers: Markers) -> int:
        nodes = drawn(figure_of(Blanks(), markers=markers))
        return sum(
            node["tag"] == "circle" or (node["tag"] == "path" and node["attributes"].get("stroke-width") == 1.3)
            for node in nodes
            if node["attributes"].get("fill") != "none"
        )

    assert marks(Markers.NONE) == 0
    assert marks(Markers.ODD) == 3
    assert marks(Markers.MEASURED) == 87
    assert marks(Markers.ALL) == 90


def test_a_series_can_give_way_to_its_reading() -> None:
    shown = drawn(figure_of(Average(window=Window(length=7, need=3))))
    hidden = drawn(figure_of(Average(window=Window(length=7, need=3)), raw=Raw.HIDDEN))
    assert texts(shown)[:2] == ["riders", "7-day average"]
    assert texts(hidden)[0] == "7-day average"
    assert len(inked(hidden)) < len(inked(shown))
    # a series without a reading is drawn all the same
    assert texts(drawn(figure_of(raw=Raw.HIDDEN)))[0] == "riders"


def test_rules_points_and_areas_are_drawn_by_their_shape_alone() -> None:
    shift = Shift(on="2026-02-10", named="second boat", season=None)
    figure = figure_of(shift, Moves(largest=2), Band(window=Window(length=7, need=3)))
    assert {one["shape"] for one in figure["shapes"]} == {"rule", "points", "curve", "area"}
    renamed = json.loads(json.dumps(figure))
    for one in renamed["shapes"]:
        one["entry"] = "another"
    assert drawn(renamed) == drawn(figure)
    told = texts(drawn(figure))
    assert any(text.startswith("second boat ") for text in told)
    # the name of one has room beside the line, and the other is told to be left out
    assert sum("%" in text for text in told) == 1
    assert "1 name left out; closer there is room" in told
    filled = [node for node in drawn(figure) if "fill-opacity" in node["attributes"]]
    assert len(filled) == 1


def test_fifty_small_charts_ask_for_the_height_they_need() -> None:
    figure = figure_of(arrangement=Arrangement.APART)
    figure["series"] = [{**figure["series"][0], "name": f"route {n}"} for n in range(50)]
    assert js("zembra.frame.heightNeeded(figure, 400)", figure=figure) > 50 * 60
    assert sum(node["tag"] == "clipPath" for node in drawn(figure)) == 50


def words(kind: str) -> list[dict[str, Any]]:
    from zembra.core.ledger.registry import kinds

    return [slot.model_dump(mode="json") for slot in words_of(kinds()[kind])]


def test_words_within_clauses_are_found_by_their_path() -> None:
    slots, params = words("outliers"), Outliers().model_dump(mode="json")
    assert js("zembra.clauses.slotAt(slots, params, 'rule.far').title", slots=slots, params=params) == "how far"
    assert js("zembra.clauses.slotAt(slots, params, 'rule.low') ?? null", slots=slots, params=params) is None
    strange = {**params, "rule": {"kind": "from-the-future", "depth": 3}}
    assert js("zembra.clauses.slotAt(slots, params, 'rule.depth') ?? null", slots=slots, params=strange) is None
    changed = js("zembra.clauses.withValue(params, 'rule.far', 9)", params=params)
    assert changed == {**params, "rule": {**params["rule"], "far": 9}}


def test_another_clause_brings_its_own_words_and_keeps_those_that_both_have() -> None:
    slot = next(one for one in words("outliers") if one["name"] == "rule")
    exchange: Callable[[dict[str, Any], str], Any] = lambda held, kind: js(  # noqa: E731
        "zembra.clauses.exchanged(slot, held, kind, {season: 24})", slot=slot, held=held, kind=kind
    )
    held = {"kind": "neighbours", "far": 6, "measure": "units", "side": "up", "ends": "not"}
    assert exchange(held, "season") == {"kind": "season", "far": 4, "season": 24, "side": "up"}
    assert exchange(held, "limits") == {"kind": "limits", "low": None, "high": None}


def test_edits_of_different_words_of_a_clause_both_stay() -> None:
    before = {"window": {"kind": "periods", "length": 28, "need": 20}, "tail": "stop"}
    mine = {"window": {"kind": "periods", "length": 14, "need": 20}, "tail": "stop"}
    theirs = {"window": {"kind": "periods", "length": 28, "need": 9}, "tail": "faded"}
    change = js("zembra.edits.changedWords(before, mine)", before=before, mine=mine)
    assert change == {"window": {"kind": "periods", "length": 14}}
    merged = js("zembra.edits.mergedWords(theirs, change, before)", theirs=theirs, change=change, before=before)
    assert merged == {"window": {"kind": "periods", "length": 14, "need": 9}, "tail": "faded"}
    gone = {"window": {"kind": "calendar", "months": 3}, "tail": "stop"}
    assert js("zembra.edits.mergedWords(gone, change, before) ?? null", gone=gone, change=change, before=before) is None


@given(st.floats(-1e6, 1e6), st.booleans())
def test_a_nudge_stays_within_its_limits(value: float, fast: bool) -> None:
    slot = next(one for one in words("moves") if one["name"] == "times")
    next_ = js("zembra.words.nudged(slot, value, 1, fast)", slot=slot, value=value, fast=fast)
    assert slot["minimum"] <= next_ <= slot["maximum"]
    assert math.isfinite(next_)
