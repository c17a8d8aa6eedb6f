"""Shade a band round an average, another reading or the series."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.rolling import rolling_mean
from zembra.core.arithmetic.windows import Windows
from zembra.core.calendar.lines import Line
from zembra.core.english import upper_first
from zembra.core.entries.readings.clauses.bands import (
    AnyRound,
    AnyWidth,
    RoundAverage,
    RoundReading,
    RoundSeries,
    Spreads,
)
from zembra.core.entries.readings.windowed import Windowed
from zembra.core.errors import Refusal
from zembra.core.ledger.evidence import SERIES, count, percent, table
from zembra.core.ledger.lineentry import Account, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.shapes import Area, Curve, shape_id
from zembra.core.ledger.state import Study


@dataclass(frozen=True, slots=True)
class SeriesBand(SeriesResult):
    """A band round a series.

    periods, middle, lower, upper: one element per period, NaN where the band is open
    judged: number of values compared
    inside: number of values inside
    inside_share: share inside in percent
    normal_share: expected share for normal values in percent, or None
    """

    periods: Ints
    middle: Floats
    lower: Floats
    upper: Floats
    judged: int
    inside: int
    inside_share: float | None
    normal_share: float | None


@register
class Band(Windowed):
    kind: ClassVar[str] = "band"
    title: ClassVar[str] = "Band"
    hint: ClassVar[str] = "Spreads, percentiles or a distance either side of an average, a reading or the series."
    rank: ClassVar[int] = 2

    width: Annotated[AnyWidth, Field(title="how far it reaches", discriminator="kind")] = Spreads()
    round: Annotated[AnyRound, Field(title="what it lies round", discriminator="kind")] = RoundAverage()

    def template(self) -> str:
        return f"Shade {{width}} {{round}} {{window}}, of {{series}}{self.about_tail}."

    def refers_to(self) -> tuple[str, ...]:
        reading = self.round.reading if isinstance(self.round, RoundReading) else None
        return (reading,) if reading else ()

    def on_line(self, line: Line, study: Study) -> LineResult:
        window = self.window
        windows = window.windows(line, study)
        values = self.counted(line)
        middle = self._middle(line, values, windows, study)
        own = isinstance(self.round, RoundAverage)
        edges = self.width.edges(middle, values, windows, window.need, own)
        (lower, faded), (upper, _) = (self.ended(line, edge, windows) for edge in edges)
        middle, _ = self.ended(line, middle, windows)
        judged = ~np.isnan(lower) & ~np.isnan(values)
        inside = int(((values >= lower) & (values <= upper))[judged].sum())
        points = int(judged.sum())
        name = self._named(study)
        curve = Curve(
            id=shape_id(study.entry_id, line.name, "middle"),
            entry=study.entry_id,
            series=line.name,
            name=name,
            kind=self.kind,
            periods=line.periods,
            value=middle,
            faded=faded,
            pale=~windows.whole,
            # what is there already is not drawn twice
            drawn=own,
        )
        area = Area(
            id=shape_id(study.entry_id, line.name, "band"),
            entry=study.entry_id,
            series=line.name,
            name=name,
            curve_id=curve.id,
            periods=line.periods,
            lower=lower,
            upper=upper,
        )
        share = 100 * inside / points if points else None
        # more of a window's own points lie inside a band round its own mean
        usual = self.width.usual_share(windows.counts(~np.isnan(values))[judged]) if own and points else None
        told = None if usual is None else round(100 * float(usual.mean()), 1)
        return LineResult(
            shapes=(curve, area),
            touched=points,
            warnings=self.stopped(line, lower, study),
            result=SeriesBand(line.name, line.periods, middle, lower, upper, points, inside, share, told),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        if not any(effect.touched for effect in made):
            raise self.too_few(max(2, self.window.need), study)
        columns = (
            SERIES,
            count("judged", "Points judged"),
            count("inside", "Inside"),
            percent("inside_share", "Inside, %"),
            percent("normal_share", "Inside if the spread were normal, %"),
        )
        rows = [
            (band.series, band.judged, band.inside, band.inside_share, band.normal_share)
            for band in results_in(made, SeriesBand)
        ]
        return Account("points", (table(upper_first(self._named(study)), columns, rows),), self.window.lowered)

    def _named(self, study: Study) -> str:
        return self.window.named(study.grain.singular, "band")

    def _middle(self, line: Line, values: Floats, windows: Windows, study: Study) -> Floats:
        if isinstance(self.round, RoundSeries):
            return line.value
        if isinstance(self.round, RoundAverage):
            return rolling_mean(values, windows, self.window.need)
        found = next((reading for reading in study.earlier if isinstance(reading, Curve)), None)
        if found is None:
            raise Refusal(
                f"There is no such reading of {line.name} before this entry.",
                todo="Choose one of the readings above it, or the average.",
            )
        return found.at(line.periods)
