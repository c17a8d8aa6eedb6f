"""Mark periods that exceed a reference, label them, and list them for follow-up."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, Floats, runs
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Line
from zembra.core.english import number
from zembra.core.entries.readings.clauses.edges import AgainstNumber, AgainstReading, AnyAgainst
from zembra.core.entries.shared.changewords import signed
from zembra.core.entries.shared.periodwords import ALL_WEEK, Month, Weekday
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.events import event_names
from zembra.core.ledger.evidence import SERIES, Finding, Row, Table, measure, percent, period, periods_of, text
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Area, Beside, Curve, Points, Rests, shape_id
from zembra.core.ledger.state import State, Study

MOST_MARKED = 2000
ALL_MONTHS = tuple(Month)


class MarkedSide(Choice):
    ABOVE = ("above", "above")
    BELOW = ("below", "below")
    OUTSIDE = ("outside", "outside", "above its upper or below its lower edge; of a line, on either side")
    INSIDE = ("inside", "inside", "between its edges, or on the line")
    CROSSING = ("crossing", "crossing", "on another side than the period before")


class Labelled(Choice):
    DISTANCE = ("distance", "how far away", "distance to what they are held against")
    PERCENT = ("percent", "how far away in percent")
    VALUE = ("value", "their value")
    DATE = ("date", "their date")
    EVENT = ("event", "the event they fall on", "as the entry Events has it")
    NOTHING = ("nothing", "nothing")


class Listed(Choice):
    NOT = ("not", "not put on the follow-up list")
    LISTED = ("listed", "put on the follow-up list")


@register
class Marks(LineEntry):
    kind: ClassVar[str] = "mark"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Marked periods"
    hint: ClassVar[str] = (
        "Above, below, outside or crossing a line, a band or a number; labelled, and listed to ask about."
    )
    rank: ClassVar[int] = 6

    side: Annotated[MarkedSide, Field(title="where they lie")] = MarkedSide.ABOVE
    against: Annotated[AnyAgainst, Field(title="what they are held against", discriminator="kind")] = AgainstNumber()
    weekdays: Annotated[tuple[Weekday, ...], Field(title="weekdays", min_length=1), Word(spoken="span")] = ALL_WEEK
    months: Annotated[tuple[Month, ...], Field(title="months", min_length=1), Word(spoken="span")] = ALL_MONTHS
    run: Annotated[int, Field(title="how many in a row", ge=1, le=1000)] = 1
    labelled: Annotated[Labelled, Field(title="label")] = Labelled.DISTANCE
    most: Annotated[int, Field(title="how many are labelled", ge=0, le=200)] = 8
    listed: Annotated[Listed, Field(title="follow-up list")] = Listed.NOT

    def template(self) -> str:
        return (
            "Mark the {@periods} of {series} {side} {against}[, on {weekdays}][, in {months}][, at least {run} in a row], "
            "labelled with {labelled}[, the {most} farthest away], and {listed}."
        )

    def refers_to(self) -> tuple[str, ...]:
        return self.against.refers_to()

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return self.against.others(state, line)

    def on_line(self, line: Line, study: Study) -> LineResult:
        lower, upper, name = self.against.edges(line, study)
        values = line.counted
        held = np.where(values > upper, upper, np.where(values < lower, lower, (lower + upper) / 2))
        away = values - held
        found = self._where(values, lower, upper) & self._on_days(line, study)
        if self.run > 1:
            kept = np.zeros(len(line), dtype=bool)
            for first, end in runs(found):
                kept[first:end] = end - first >= self.run
            found = kept
        at = np.flatnonzero(found)[:MOST_MARKED]
        farthest = set(at[np.argsort(-np.abs(away[at]), kind="stable")][: self.most].tolist())
        events = event_names(study.events, line.periods[at])
        dates = study.grain.labels(line.periods[at]) if self.labelled is Labelled.DATE else events
        numbers = list(zip(at.tolist(), values[at].tolist(), held[at].tolist(), away[at].tolist(), strict=True))
        labels = tuple(
            self._label(value, held_to, date, event) if n in farthest else ""
            for (n, value, held_to, _), date, event in zip(numbers, dates, events, strict=True)
        )
        state, found_by, listed = self.side.value, f"{self.side.label} {name}", self.listed is Listed.LISTED
        findings = tuple(
            Finding(line.name, period, value, study.entry_id, held_to, by, state, "", found_by, event, listed)
            for period, (_, value, held_to, by), event in zip(line.periods[at].tolist(), numbers, events, strict=True)
        )
        points = Points(
            id=shape_id(study.entry_id, line.name, "marks"),
            entry=study.entry_id,
            series=line.name,
            name=f"{self.side.label} {name}",
            periods=line.periods[at],
            value=values[at],
            labels=labels,
            beside=tuple(Beside.ABOVE if by >= 0 else Beside.BELOW for *_, by in numbers),
        )
        return LineResult(shapes=(points,) if at.size else (), touched=int(found.sum()), findings=findings)

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        findings = tuple(finding for item in made for finding in item.findings)
        labels = study.grain.labels(periods_of(findings))
        columns = (
            SERIES,
            period("period", "Period"),
            measure("value", "Value"),
            measure("against", "Held against"),
            measure("away", "Away by"),
            percent("percent", "Percent"),
            *((text("event", "Event"),) if study.events else ()),
        )
        rows: tuple[Row, ...] = tuple(
            (
                finding.series,
                label,
                finding.value,
                finding.against,
                finding.distance,
                _share(finding.distance, finding.against),
            )
            for finding, label in zip(findings, labels, strict=True)
        )
        if study.events:
            rows = tuple((*row, finding.event) for row, finding in zip(rows, findings, strict=True))
        return Account("marked", (Table("Marked periods", columns, rows, findings),))

    @classmethod
    def suggest(cls, state: State) -> Marks:
        """Suggest marking above the newest reading of the first series, if any."""
        # projections come later in the ledger, whatever their position on screen
        drawn = [
            shape for shape in state.shapes if isinstance(shape, Curve | Area) and shape.rests is not Rests.PROJECTED
        ]
        first = (state.lines[0].name,) if state.lines else ()
        if not drawn:
            return cls(series=first)
        side = MarkedSide.OUTSIDE if isinstance(drawn[-1], Area) else MarkedSide.ABOVE
        return cls(series=(drawn[-1].series,), side=side, against=AgainstReading(reading=drawn[-1].entry))

    def _where(self, values: Floats, lower: Floats, upper: Floats) -> Bools:
        above, below = values > upper, values < lower
        judged = ~np.isnan(values) & ~np.isnan(lower) & ~np.isnan(upper)
        if self.side is MarkedSide.ABOVE:
            return above & judged
        if self.side is MarkedSide.BELOW:
            return below & judged
        if self.side is MarkedSide.OUTSIDE:
            return (above | below) & judged
        if self.side is MarkedSide.INSIDE:
            return ~above & ~below & judged
        side = np.where(above, 1, np.where(below, -1, 0))
        at = np.flatnonzero(judged & (side != 0))
        crossing = np.zeros(values.size, dtype=bool)
        crossing[at[1:][np.diff(side[at]) != 0]] = True
        return crossing

    def _on_days(self, line: Line, study: Study) -> Bools:
        wanted = np.ones(len(line), dtype=bool)
        if len(self.weekdays) < len(ALL_WEEK):
            if study.grain.seconds > 86_400 and study.grain.unit is not Unit.MOMENT:
                raise Refusal(f"A {study.grain.singular} has no weekday.", todo="Choose all weekdays.")
            wanted &= np.isin(study.grain.weekdays(line.periods), [ALL_WEEK.index(day) for day in self.weekdays])
        if len(self.months) < len(ALL_MONTHS):
            wanted &= np.isin(study.grain.months(line.periods) + 1, [int(month.value) for month in self.months])
        return wanted

    def _label(self, value: float, held: float, label: str, event: str) -> str:
        if self.labelled is Labelled.DISTANCE:
            return signed(value - held)
        if self.labelled is Labelled.PERCENT:
            share = _share(value - held, held)
            return "" if share is None else f"{signed(share)} %"
        if self.labelled is Labelled.VALUE:
            return number(float(f"{value:.5g}"))
        return {Labelled.DATE: label, Labelled.EVENT: event}.get(self.labelled, "")


def _share(distance: float | None, against: float | None) -> float | None:
    return None if not against or distance is None else 100 * distance / abs(against)
