"""Write points.csv and lines.csv."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import polars as pl

from zembra.core.calendar.lines import ALSO, REASON_MARK, Condition, Line, Received
from zembra.core.figure.parts.base import numbers
from zembra.core.handover.csvtext import csv_text, safe, written
from zembra.core.ledger.evidence import Cell
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Area, Curve
from zembra.core.study.followup import Item

POINT_COLUMNS = ("series", "period", "raw", "value", "received", "condition", "reason", "counted")
LINE_COLUMNS = ("series", "line", "kind", "period", "value", "lower", "upper", "level", "entry", "faded")
FOLLOW_UP_COLUMNS = ("series", "period", "value", "away_by", "found_by", "note", "state", "who", "changed", "gone")
BRIDGED = "bridged"


def points_csv(result: Result) -> str:
    """Return one row per series and period, without projected periods."""
    return csv_text(
        POINT_COLUMNS,
        ((safe(row[0]), row[1], safe(row[2]), *row[3:6], safe(row[6]), row[7]) for row in point_rows(result)),
    )


def point_rows(result: Result) -> Iterator[tuple[str, ...]]:
    """Yield the rows of points.csv before escaping."""
    reasons = {report.id: report.sentence for report in result.reports}
    for line in result.state.lines:
        yield from line_rows(result, line, reasons)


def line_rows(result: Result, line: Line, reasons: dict[str, str]) -> Iterator[tuple[str, ...]]:
    """Yield the points of one line: series, period, raw, value, received, condition, reason, counted. Bridged gaps
    have the condition `bridged`; `counted` is the number that readings use, or empty.
    """
    state = result.state
    labels = state.grain.labels(line.periods)
    raws = raw_texts(line, state.frame)
    by = [reason_of(entry, reasons) for entry in line.entries]
    counted = line.counted
    for n, label in enumerate(labels):
        condition = Condition(int(line.condition[n]))
        word = BRIDGED if condition is Condition.OPEN and line.bridged[n] else condition.word
        value = written(float(line.value[n]))
        reason = by[int(line.entry[n])]
        received = Received(int(line.received[n])).word
        yield (line.name, label, raws[n], value, received, word, reason, written(float(counted[n])))


def reason_of(entry: str, reasons: dict[str, str]) -> str:
    """Return the reason for a point's condition.

    entry: id in the line, with reasons
    reasons: sentence of each entry
    """
    name, _, why = entry.partition(REASON_MARK)
    sentence = " ".join(filter(None, (reasons.get(part, "") for part in name.split(ALSO))))
    return f"{sentence} ({why})" if why else sentence


def raw_texts(line: Line, frame: pl.DataFrame) -> list[str]:
    """Return the cell text of each period, or the combined number of several rows."""
    texts = frame["text"].gather(pl.Series(line.first_row).clip(lower_bound=0)).fill_null("").to_list()
    return [
        "" if count == 0 else (text if count == 1 else written(number))
        for count, text, number in zip(line.row_count.tolist(), texts, line.original.tolist(), strict=True)
    ]


def lines_csv(result: Result) -> str:
    """Return all readings and projections in long form, one row per period and level. The column `entry` is the id
    of the entry, `faded` is yes over provisional periods.
    """
    return csv_text(LINE_COLUMNS, (_as_text(row) for row in line_cells(result)))


def line_cells(result: Result) -> Iterator[tuple[Cell, ...]]:
    """Yield the rows of lines.csv with numbers, before escaping."""
    state = result.state
    curves = [shape for shape in state.shapes if isinstance(shape, Curve)]
    areas = [shape for shape in state.shapes if isinstance(shape, Area)]
    around = {curve.id: [area for area in areas if area.curve_id == curve.id] for curve in curves} if areas else {}
    for drawn in curves:
        yield from _curve_rows(drawn, around.get(drawn.id, []), state.grain.labels(drawn.periods))


def _as_text(row: tuple[Cell, ...]) -> tuple[str, ...]:
    return (
        *(safe(str(cell)) for cell in row[:2]),
        *("" if cell is None else cell if isinstance(cell, str) else written(cell) for cell in row[2:]),
    )


def followup_csv(items: Sequence[Item]) -> str:
    """Return the follow-up list, newest first. The column `gone` tells why an item stays although nothing finds it."""
    return csv_text(
        FOLLOW_UP_COLUMNS,
        (
            (
                safe(item.series),
                item.period,
                written(item.value),
                written(item.distance),
                safe("; ".join(item.found_by)),
                safe(item.note),
                item.state.value,
                safe(item.who),
                item.changed,
                safe(item.gone),
            )
            for item in items
        ),
    )


def _curve_rows(curve: Curve, areas: list[Area], labels: list[str]) -> Iterator[tuple[Cell, ...]]:
    for n, (label, value) in enumerate(zip(labels, numbers(curve.value), strict=True)):
        start = (curve.series, curve.name, curve.kind, label, value)
        end = (curve.entry, "yes" if curve.faded is not None and curve.faded[n] else "no")
        if not areas:
            yield (*start, None, None, None, *end)
        for area in areas:
            yield (*start, _number(area.lower[n]), _number(area.upper[n]), area.level, *end)


def _number(value: float) -> float | None:
    return None if math.isnan(value) else float(value)
