"""Points and lines as data frames, with the columns of points.csv and lines.csv."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Ints
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Condition, Line, Received
from zembra.core.handover.csvtext import written
from zembra.core.handover.tables import BRIDGED, LINE_COLUMNS, POINT_COLUMNS, reason_of
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Area, Curve

_LINE_NUMBERS = ("value", "lower", "upper", "level")
# how many times as many labels as there are periods are made at most, to have each made once
_DENSE = 4


def points_frame(result: Result) -> pl.DataFrame:
    """Return one row per series and period, as in points.csv."""
    lines = [line for line in result.state.lines if len(line)]
    if not lines:
        return pl.DataFrame(
            schema={**dict.fromkeys(POINT_COLUMNS, pl.String), "value": pl.Float64, "counted": pl.Float64}
        )
    words = pl.Series([*(condition.word for condition in Condition), BRIDGED])
    condition = _joined([line.condition for line in lines]).astype(np.int64)
    condition[(condition == Condition.OPEN) & _joined([line.bridged for line in lines])] = len(Condition)
    received = pl.Series([code.word for code in Received])
    reasons, places = _reasons(result, lines)
    columns = {
        "series": _repeated([line.name for line in lines], [len(line) for line in lines]),
        "period": _labels(result.state.grain, _joined([line.periods for line in lines])),
        "raw": _raws(lines, result.state.frame),
        "value": pl.Series(_joined([line.value for line in lines]), nan_to_null=True),
        "received": received.gather(pl.Series(_joined([line.received for line in lines]))),
        "condition": words.gather(pl.Series(condition)),
        "reason": reasons.gather(pl.Series(places)),
        "counted": pl.Series(_joined([line.counted for line in lines]), nan_to_null=True),
    }
    return pl.DataFrame([column.alias(name) for name, column in columns.items()])


def lines_frame(result: Result) -> pl.DataFrame:
    """Return all readings and projections in long form, as in lines.csv."""
    curves = [shape for shape in result.state.shapes if isinstance(shape, Curve)]
    areas: dict[str, list[Area]] = {}
    for shape in result.state.shapes:
        if isinstance(shape, Area):
            areas.setdefault(shape.curve_id, []).append(shape)
    # a row a point and area; one where there is none
    parts = [(curve, areas.get(curve.id, [])) for curve in curves if curve.periods.size]
    if not parts:
        return pl.DataFrame(schema={name: pl.Float64 if name in _LINE_NUMBERS else pl.String for name in LINE_COLUMNS})
    sizes = [curve.periods.size * max(1, len(around)) for curve, around in parts]

    def spread(values: np.ndarray, around: Sequence[Area]) -> np.ndarray:
        return np.repeat(values, max(1, len(around)))

    def edges(name: str) -> np.ndarray:
        """Return the edges of all areas of each point in turn."""
        return _joined(
            [
                np.column_stack([getattr(area, name) for area in around]).ravel()
                if around
                else np.full(curve.periods.size, np.nan)
                for curve, around in parts
            ]
        )

    value = _joined([spread(curve.value, around) for curve, around in parts])
    level = _joined(
        [
            np.tile([np.nan if area.level is None else area.level for area in around] or [np.nan], curve.periods.size)
            for curve, around in parts
        ]
    )
    faded = _joined(
        [
            np.zeros(size, dtype=bool) if curve.faded is None else spread(curve.faded, around)
            for (curve, around), size in zip(parts, sizes, strict=True)
        ]
    )
    columns = {
        "series": _repeated([curve.series for curve, _ in parts], sizes),
        "line": _repeated([curve.name for curve, _ in parts], sizes),
        "kind": _repeated([curve.kind for curve, _ in parts], sizes),
        "period": _labels(result.state.grain, _joined([spread(curve.periods, around) for curve, around in parts])),
        "value": pl.Series(np.where(np.isfinite(value), value, np.nan), nan_to_null=True),
        "lower": pl.Series(edges("lower"), nan_to_null=True),
        "upper": pl.Series(edges("upper"), nan_to_null=True),
        "level": pl.Series(level, nan_to_null=True),
        "entry": _repeated([curve.entry for curve, _ in parts], sizes),
        "faded": pl.Series(["no", "yes"]).gather(pl.Series(faded.astype(np.int64))),
    }
    return pl.DataFrame([column.alias(name) for name, column in columns.items()])


def parquet(frame: pl.DataFrame) -> bytes:
    out = io.BytesIO()
    frame.write_parquet(out)
    return out.getvalue()


def _joined(arrays: Sequence[np.ndarray]) -> np.ndarray:
    return np.concatenate(arrays)


def _repeated(texts: Sequence[str], counts: Sequence[int]) -> pl.Series:
    return pl.Series(texts, dtype=pl.String).gather(pl.Series(np.repeat(np.arange(len(texts)), counts)))


def _labels(grain: Grain, periods: Ints) -> pl.Series:
    """Return labels of periods, each computed once."""
    low, high = int(periods.min()), int(periods.max())
    if high - low < _DENSE * periods.size:
        every = np.arange(low, high + 1, dtype=np.int64)
        return pl.Series(grain.labels(every), dtype=pl.String).gather(pl.Series(periods - low))
    every, places = np.unique(periods, return_inverse=True)
    return pl.Series(grain.labels(every), dtype=pl.String).gather(pl.Series(places))


def _raws(lines: Sequence[Line], frame: pl.DataFrame) -> pl.Series:
    """Return the cell text of each period, or the combined number of several rows."""
    count = _joined([line.row_count for line in lines])
    first = np.maximum(_joined([line.first_row for line in lines]), 0)
    texts = frame["text"].gather(pl.Series(first)).fill_null("")
    texts = pl.select(pl.when(pl.lit(pl.Series(count == 0))).then(pl.lit("")).otherwise(pl.lit(texts))).to_series()
    several = np.flatnonzero(count > 1)
    if several.size:
        original = _joined([line.original for line in lines])[several]
        texts = texts.scatter(pl.Series(several), [written(number) for number in original.tolist()])
    return texts


def _reasons(result: Result, lines: Sequence[Line]) -> tuple[pl.Series, Ints]:
    """Return all distinct reasons, and the index of each point's reason."""
    sentences = {report.id: report.sentence for report in result.reports}
    known: dict[str, int] = {}
    places = []
    for line in lines:
        own = np.array([known.setdefault(reason_of(by, sentences), len(known)) for by in line.entries], dtype=np.int64)
        places.append(own[line.entry])
    return pl.Series(list(known), dtype=pl.String), _joined(places)
