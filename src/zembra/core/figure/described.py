"""Describe a picture in words, for people who cannot see it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from zembra.core.english import listed, number, spoken_date
from zembra.core.figure.model import Figure
from zembra.core.figure.parts.area import AreaView
from zembra.core.figure.parts.curve import CurveView
from zembra.core.figure.parts.rule import RuleView
from zembra.core.figure.parts.series import SeriesView
from zembra.core.ledger.shapes import Rests

MOST_DESCRIBED = 6  # series of which the numbers are told
CONDITIONS = (
    ("f", "estimated"),
    ("b", "drawn across"),
    ("st", "set aside"),
    ("a", "adjusted"),
    ("p", "not complete yet"),
)


def described(figure: Figure) -> str:
    """Describe a dressed figure in words, for people who cannot see it."""
    return " ".join(_sentences(figure))


def _sentences(figure: Figure) -> Iterator[str]:
    time = figure.time
    assert time is not None
    names = [_name(series) for series in figure.series]
    about = listed(names[:MOST_DESCRIBED]) + (
        f" and {len(names) - MOST_DESCRIBED} more" if len(names) > MOST_DESCRIBED else ""
    )
    title = f"{figure.title}. " if figure.title else ""
    counts = f", {figure.scales[0].title}" if figure.scales and figure.scales[0].title else ""
    yield f"{title}Line chart of {about or 'no series'}{counts}, from {_day(time.start)} to {_day(time.end)}."
    for series in figure.series[:MOST_DESCRIBED]:
        yield from _of_series(series, figure)
    for shape in figure.shapes:
        if isinstance(shape, CurveView) and shape.rests is Rests.PROJECTED:
            yield from _of_projection(shape, figure)
        elif isinstance(shape, CurveView) and shape.label:
            seen = _seen(shape.t, shape.v, figure)
            if seen:
                yield f"{_name(shape)} ends at {number(_short(seen[-1][1]))} on {_day(seen[-1][0])}."
        elif isinstance(shape, RuleView) and shape.v is not None:
            yield f"A line is held at {number(_short(shape.v))}: {_name(shape)}."


def _of_series(series: SeriesView, figure: Figure) -> Iterator[str]:
    seen = [
        (at, value, code)
        for at, value, code in zip(series.t, series.v, series.c, strict=True)
        if value is not None and _within(at, figure)
    ]
    counted = [(at, value) for at, value, code in seen if code not in "st"]
    if not counted:
        yield f"{_name(series)} has no number here."
        return
    (first, begins), (last, ends) = counted[0], counted[-1]
    high = max(counted, key=lambda item: item[1])
    low = min(counted, key=lambda item: item[1])
    yield (
        f"{_name(series)} begins at {number(_short(begins))} on {_day(first)} and ends at {number(_short(ends))} on {_day(last)}; "
        f"highest {number(_short(high[1]))} on {_day(high[0])}, lowest {number(_short(low[1]))} on {_day(low[0])}."
    )
    codes = [code for at, code in zip(series.t, series.c, strict=True) if _within(at, figure)]
    counts = [
        f"{count} {word}" for letters, word in CONDITIONS if (count := sum(1 for code in codes if code in letters))
    ]
    if counts:
        yield f"Of its {figure.periods}, {listed(counts)}."


def _of_projection(curve: CurveView, figure: Figure) -> Iterator[str]:
    seen = _seen(curve.t, curve.v, figure)
    if not seen:
        return
    (first, begins), (last, ends) = seen[0], seen[-1]
    limits = [
        f"{number(area.level)} % limits {number(_short(low))} to {number(_short(high))}"
        for area in figure.shapes
        if isinstance(area, AreaView) and area.of == curve.id and area.level is not None
        for low, high in [_at_end(area, last)]
        if low is not None and high is not None
    ]
    more = f", with {listed(limits)} there" if limits else ""
    yield (
        f"Projected, not measured: {_name(curve)} from {number(_short(begins))} on {_day(first)} to "
        f"{number(_short(ends))} on {_day(last)}{more}."
    )


def _at_end(area: AreaView, at: int) -> tuple[float | None, float | None]:
    if at not in area.t:
        return None, None
    place = area.t.index(at)
    return area.lower[place], area.upper[place]


def _seen(t: Sequence[int], v: Sequence[float | None], figure: Figure) -> list[tuple[int, float]]:
    return [(at, value) for at, value in zip(t, v, strict=True) if value is not None and _within(at, figure)]


def _within(at: int, figure: Figure) -> bool:
    assert figure.time is not None
    return figure.time.start <= at <= figure.time.end


def _name(series: SeriesView | CurveView | RuleView) -> str:
    return series.look.name if series.look and series.look.name else series.name


def _day(at: int) -> str:
    return spoken_date(np.datetime64(at, "ms").astype("datetime64[D]").item())


def _short(value: float) -> float:
    """Format with five significant digits."""
    return float(f"{value:.5g}")
