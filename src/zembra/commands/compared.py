"""Compare a run with an earlier one, and score the earlier projections."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import polars as pl

from zembra.core.calendar.seasons import usual_season
from zembra.core.english import number, spoken_label
from zembra.core.entries.projections.projection import Projection
from zembra.core.errors import Refusal
from zembra.core.handover.changed import changes
from zembra.core.handover.frames import points_frame
from zembra.core.ledger.run import Result
from zembra.core.newrows.issued import Issued, Score, last_season, scored

MOST_SAID = 20
_NUMBERS = {"value": pl.Float64, "lower": pl.Float64, "upper": pl.Float64, "level": pl.Float64}


def compared(folder: Path, result: Result) -> list[str]:
    """Compare in sentences. Raises Refusal.

    folder: with points.csv and lines.csv of the earlier run
    """
    points, lines = _table(folder / "points.csv"), _table(folder / "lines.csv")
    return [*_changed(points, result), *(f"projected then: {score_said(score)}" for score in _scores(lines, result))]


def _table(path: Path) -> pl.DataFrame:
    if not path.exists():
        raise Refusal(f"There is no {path.name} of an earlier run.", place=str(path.parent))
    try:
        frame = pl.read_csv(path, infer_schema=False)
        return frame.with_columns(pl.col(name).cast(kind) for name, kind in _NUMBERS.items() if name in frame.columns)
    except pl.exceptions.PolarsError as error:
        raise Refusal(f"What an earlier run wrote cannot be read: {error}.", place=str(path)) from None


def _changed(points: pl.DataFrame, result: Result) -> Iterator[str]:
    try:
        found = changes(points, points_frame(result), "points", MOST_SAID)
    except pl.exceptions.PolarsError as error:
        raise Refusal(f"That is no points.csv of a run: {error}.") from None
    if not found.counts:
        yield "Nothing changed of what the earlier run wrote."
        return
    yield "Changed since the earlier run: " + ", ".join(f"{number(many)} {how}" for how, many in found.counts.items())
    for row in found.rows:
        was, now = ("nothing" if value is None else number(value) for value in (row.was, row.now))
        yield f"{row.series}, {spoken_label(row.period)}: {was}, now {now} ({row.said})"


def _scores(lines: pl.DataFrame, result: Result) -> list[Score]:
    own = lines.filter((pl.col("kind") == Projection.kind) & (pl.col("line") == "projection"))
    season = usual_season(result.state.expected) or 1
    parts = []
    for (name,), part in own.group_by(["series"], maintain_order=True):
        line = next((line for line in result.state.lines if line.name == name), None)
        if line is None:
            continue
        periods = part["period"].unique(maintain_order=True).to_list()
        first = result.state.grain.parse(periods[0])
        naive, scale = last_season(line.part(np.flatnonzero(line.periods < first)), len(periods), season)
        ahead = {label: n for n, label in enumerate(periods)}
        places = np.array([ahead[label] for label in part["period"]])
        parts.append(
            part.select("series", "period", pl.col("value").alias("mean"), "level", "lower", "upper").with_columns(
                entry=pl.lit(""), ahead=pl.Series(places + 1), last_season=pl.Series(naive[places]), scale=pl.lit(scale)
            )
        )
    if not parts:
        return []
    told = Issued(0, "", "an earlier run", pl.concat(parts))
    return [score for score in scored([told], result.state.lines, result.state.grain) if score.points]


def score_said(score: Score) -> str:
    """Format a score."""

    def short(value: float | None) -> str:
        return "–" if value is None else f"{value:.2f}"

    inside = ", ".join(f"{many} of {score.points} in {level:g} %" for level, many, _ in score.inside)
    return (
        f"{score.series}, scaled error {short(score.error)} (last season coming again {short(score.naive)}), "
        f"bias {short(score.bias)}, {inside}"
    )
