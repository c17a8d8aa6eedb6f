"""points.csv and lines.csv of the headless contract."""

from __future__ import annotations

from collections.abc import Iterator

import polars as pl

from zembra.core.figure.build import numbers
from zembra.core.handover.csvtext import csv_text, safe, written
from zembra.core.ledger.run import Result
from zembra.core.lines import ALSO, REASON_MARK, Condition, Drawn, Line, Received

POINT_COLUMNS = ("series", "period", "raw", "value", "received", "condition", "reason", "counted")
LINE_COLUMNS = ("series", "line", "kind", "period", "value", "lower", "upper", "level", "entry", "faded")
BRIDGED = "bridged"


def points_csv(result: Result) -> str:
    """One row per series and period of the completed calendar; projected periods excluded."""
    return csv_text(
        POINT_COLUMNS,
        ((safe(row[0]), row[1], safe(row[2]), *row[3:6], safe(row[6]), row[7]) for row in point_rows(result)),
    )


def point_rows(result: Result) -> Iterator[tuple[str, ...]]:
    """The rows of points.csv as text, before any cell is made safe for spreadsheets."""
    reasons = {report.id: report.sentence for report in result.reports}
    for line in result.state.lines:
        yield from line_rows(result, line, reasons)


def line_rows(result: Result, line: Line, reasons: dict[str, str]) -> Iterator[tuple[str, ...]]:
    """The points of one line: series, period, raw, value, received, condition, reason, counted.

    counted: the number that readings use, empty where none does. A gap that is drawn across is `bridged`.
    """
    state = result.state
    labels = state.grain.labels(line.periods)
    raws = raw_texts(line, state.frame)
    by = [_reason(entry, reasons) for entry in line.entries]
    counted = line.counted
    for n, label in enumerate(labels):
        condition = Condition(int(line.condition[n]))
        word = BRIDGED if condition is Condition.OPEN and line.bridged[n] else condition.word
        value = written(float(line.value[n]))
        reason = by[int(line.entry[n])]
        received = Received(int(line.received[n])).word
        yield (line.name, label, raws[n], value, received, word, reason, written(float(counted[n])))


def _reason(entry: str, reasons: dict[str, str]) -> str:
    told, _, why = entry.partition(REASON_MARK)
    sentence = " ".join(filter(None, (reasons.get(one, "") for one in told.split(ALSO))))
    return f"{sentence} ({why})" if why else sentence


def raw_texts(line: Line, frame: pl.DataFrame) -> list[str]:
    """The cell text of each period; the combined number where several rows share it."""
    texts = frame["text"].gather(pl.Series(line.first_row).clip(lower_bound=0)).fill_null("").to_list()
    return [
        "" if count == 0 else (text if count == 1 else written(number))
        for count, text, number in zip(line.row_count.tolist(), texts, line.original.tolist(), strict=True)
    ]


def lines_csv(result: Result) -> str:
    """Every reading and projection in long form, one row per period and level of limits.

    entry: id of the entry that drew it. faded: yes where it rests on provisional periods.
    """
    grain = result.state.grain
    return csv_text(
        LINE_COLUMNS,
        (row for drawn in result.state.drawn for row in _drawn_rows(drawn, grain.labels(drawn.periods))),
    )


def _drawn_rows(drawn: Drawn, labels: list[str]) -> Iterator[tuple[str, ...]]:
    name = safe(drawn.series)
    for n, (label, value) in enumerate(zip(labels, numbers(drawn.value), strict=True)):
        start = (name, safe(drawn.line), drawn.kind, label, written(value))
        end = (drawn.entry, "yes" if drawn.faded is not None and drawn.faded[n] else "no")
        if not drawn.limits:
            yield (*start, "", "", "", *end)
        for band in drawn.limits:
            yield (*start, written(float(band.lower[n])), written(float(band.upper[n])), written(band.level), *end)
