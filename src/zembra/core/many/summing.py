"""Sums of very many series: their words, their numbers, and their ledger."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
import polars as pl
from pydantic import Field

from zembra.core.arithmetic.arrays import Ints
from zembra.core.calendar.complete import Combine
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.calendar.lines import Condition
from zembra.core.entries.calendar.calendar import Calendar
from zembra.core.entries.calendar.source import Source
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.together import Together
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.shared.periodwords import ALL_WEEK, Month, Periods
from zembra.core.grammar import Choice, Sentence, Word
from zembra.core.handover.tables import BRIDGED
from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.howread import DatesHow, FileForm, HowRead, SeriesHow, TableHow, ValuesHow
from zembra.core.ledger.entry import Group
from zembra.core.ledger.model import Ledger, Record
from zembra.core.ledger.registry import kinds

DAY, SUM, VALUE = "period", "sum", "value"
ROUNDING = 1e-9  # of how many parts a share of them is
_NO_NUMBER = (Condition.OPEN.word, BRIDGED, Condition.SET_ASIDE.word)
# repairs that change no number: the others were made on what is summed
_ON_SUMS_TOO = (Provisional.kind, Shifts.kind)


class EndedSum(Choice):
    MISSING = ("missing", "is missing from its sum", "so that the sum is open from there on")
    NOTHING = ("nothing", "counts as nothing", "as of a landing that was closed for good")


class SumWords(Sentence):
    """How series are summed.

    by: parts of names or columns, outermost first
    """

    by: Annotated[
        tuple[str, ...],
        Field(title="what they are summed by", max_length=6),
        Word(options="name parts", empty="nothing: all together", spoken="ordered"),
    ] = ()
    need: Annotated[float, Field(title="share of its parts that a sum needs", gt=0, le=100), Word(unit="%", step=1)] = (
        100.0
    )
    ended: Annotated[EndedSum, Field(title="a part whose numbers have ended")] = EndedSum.MISSING

    def template(self) -> str:
        return "Sum by {by}; a sum needs {need} of its parts, and a part whose numbers have ended {ended}."


@dataclass(frozen=True, slots=True)
class Summed:
    """Partial sums.

    totals: sum, period (number), total, counted (series with a number)
    spans: by series of a sum: sum, series, first, last (periods with a number)
    """

    totals: pl.DataFrame
    spans: pl.DataFrame


def part_of_sums(points: pl.DataFrame, groups: pl.DataFrame, grain: Grain) -> Summed:
    """Sum some of the series.

    points: with the columns of points.parquet
    groups: series, sum
    """
    labels = points["period"].unique()
    numbers = pl.DataFrame(
        {"period": labels, "at": [grain.parse(label) for label in labels.to_list()]},
        schema={"period": pl.String, "at": pl.Int64},
    )
    known = pl.col("value").is_not_null() & ~pl.col("condition").is_in(_NO_NUMBER)
    every = (
        points.lazy()
        .select("series", "period", pl.when(known).then(pl.col("value")).alias("number"))
        .join(numbers.lazy(), on="period")
        .join(groups.lazy().select("series", SUM), on="series")
    )
    totals = every.group_by(SUM, pl.col("at").alias(DAY)).agg(
        pl.col("number").sum().alias("total"), pl.col("number").count().alias("counted")
    )
    numbered = every.filter(pl.col("number").is_not_null())
    spans = numbered.group_by(SUM, "series").agg(pl.col("at").min().alias("first"), pl.col("at").max().alias("last"))
    return Summed(totals.collect(), spans.collect())


def sums_of(parts: Sequence[Summed], words: SumWords, grain: Grain) -> pl.DataFrame:
    """Return the rows of all sums as texts: period (its start), sum, value; empty where a sum is open."""
    # in a fixed order, so that the last digit does not depend on timing
    every = pl.concat([part.totals for part in parts]).sort(SUM, DAY, "total")
    totals = every.group_by(SUM, DAY, maintain_order=True).agg(pl.col("total").sum(), pl.col("counted").sum())
    spans = pl.concat([part.spans for part in parts]).partition_by(SUM, as_dict=True)
    found = [
        own.with_columns(open=_open(own, spans[(name,)], words))
        for (name,), own in totals.partition_by(SUM, as_dict=True, maintain_order=True).items()
        if (name,) in spans
    ]
    whole = pl.concat(found)
    texts = [
        "" if is_open else repr(total)
        for total, is_open in zip(whole["total"].to_list(), whole["open"].to_list(), strict=True)
    ]
    return pl.DataFrame({DAY: _stamps(whole[DAY].to_numpy(), grain), SUM: whole[SUM], VALUE: texts})


def _open(totals: pl.DataFrame, spans: pl.DataFrame, words: SumWords) -> pl.Series:
    """Return where fewer series have a number than the sum needs."""
    periods, counted = totals[DAY].to_numpy(), totals["counted"].to_numpy()
    due = np.searchsorted(np.sort(spans["first"].to_numpy()), periods, side="right")
    if words.ended is EndedSum.NOTHING:
        due -= np.searchsorted(np.sort(spans["last"].to_numpy()), periods, side="left")
    return pl.Series((counted == 0) | (counted < _needed(due, words)))


def _needed(of: np.ndarray, words: SumWords) -> np.ndarray:
    return np.asarray(np.ceil(of * words.need / 100 - ROUNDING))


def _stamps(periods: Ints, grain: Grain) -> list[str]:
    if grain.zone:
        return grain.labels(periods)
    unit: Literal["s", "m"] = "s" if grain.unit is Unit.MOMENT else "m"
    return list(np.datetime_as_string(grain.starts(periods), unit=unit).tolist())


def going_on(parts: Sequence[Summed], words: SumWords) -> pl.DataFrame:
    """Return the series of each sum in its newest period: sum, series."""
    spans = pl.concat([part.spans for part in parts])
    if words.ended is EndedSum.NOTHING:
        spans = spans.filter(pl.col("last") == pl.col("last").max().over(SUM))
    return spans.select(SUM, "series")


def projected_parts(lines: pl.DataFrame, going: pl.DataFrame) -> pl.DataFrame:
    """Sum projections of some series: entry, sum, period (label), total, counted.

    lines: with the columns of lines.parquet
    going: sum, series
    """
    ahead = (pl.col("kind") == Projection.kind) & (pl.col("line") == Projection.kind) & pl.col("value").is_not_null()
    own = lines.lazy().filter(ahead).unique(["series", "entry", DAY]).join(going.lazy(), on="series")
    return (
        own.group_by("entry", SUM, DAY).agg(pl.col("value").sum().alias("total"), pl.len().alias("counted")).collect()
    )


def sum_of_projections(parts: Sequence[pl.DataFrame], going: pl.DataFrame, words: SumWords) -> pl.DataFrame:
    """Return entry, sum, period, value where enough series are projected."""
    every = pl.concat(parts).sort("entry", SUM, DAY, "total")
    whole = every.group_by("entry", SUM, DAY, maintain_order=True).agg(pl.col("total").sum(), pl.col("counted").sum())
    whole = whole.join(going.group_by(SUM).len("going"), on=SUM, maintain_order="left")
    enough = pl.Series(whole["counted"].to_numpy() >= _needed(whole["going"].to_numpy(), words))
    return whole.filter(enough).select("entry", SUM, DAY, pl.col("total").alias(VALUE))


def ledger_of_sums(ledger: Ledger, grain: Grain) -> Ledger:
    """Return the ledger for sums: readings, projections, and repairs that change no number.

    grain: of the summed lines
    """
    how = HowRead(
        table=TableHow(form=FileForm.PARQUET),
        dates=DatesHow(column=DAY, form=DateForm.ISO_TIME, zone=grain.zone),
        series=SeriesHow(column=SUM),
        values=ValuesHow(columns=(VALUE,)),
    )
    return ledger.model_copy(update={"intake": how, "entries": tuple(_on_sums(item, grain) for item in ledger.entries)})


def _on_sums(item: Record, grain: Grain) -> Record:
    if item.kind == Source.kind:
        combine = item.params.get("combine", Combine.SUM.value)
        once = {"combine": Combine.SUM.value if combine == Combine.COUNT.value else combine}
        return item.model_copy(update={"params": once})
    if item.kind == Calendar.kind:
        return item.model_copy(update={"params": {**item.params, **_calendar(grain)}})
    kind = kinds().get(item.kind)
    on = kind is not None and item.on and _carried_out(kind)
    return item.model_copy(update={"on": on})


def _carried_out(kind: type[Any]) -> bool:
    if kind.kind == Together.kind:
        return False
    return kind.kind in _ON_SUMS_TOO or kind.group in (Group.READINGS, Group.PROJECTIONS)


def _calendar(grain: Grain) -> Mapping[str, Any]:
    return {
        "grain": Periods.of(grain).value,
        "week_start": ALL_WEEK[grain.week_start].value,
        "year_start": Month(str(grain.year_start)).value,
        "zero_for": [],
        "closed_for": [],
    }
