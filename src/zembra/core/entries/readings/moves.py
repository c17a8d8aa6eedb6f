"""Changes from one value to the next: label the largest, mark the unusual ones."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.outliers import usual_move
from zembra.core.arithmetic.robust import MAD_TO_SD
from zembra.core.calendar.lines import Line
from zembra.core.entries.shared.changewords import from_below_zero, signed
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, Finding, measure, p_value, percent, period, table, text
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Beside, Curve, Points, shape_id
from zembra.core.ledger.state import Study

MOST_MARKED = 60
SIGNIFICANT = 0.05


@register
class Moves(LineEntry):
    kind: ClassVar[str] = "moves"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Moves"
    hint: ClassVar[str] = "Changes from one value to the next: the largest labelled, unusual ones marked."
    rank: ClassVar[int] = 4

    largest: Annotated[int, Field(title="how many are labelled", ge=0, le=20)] = 3
    times: Annotated[float, Field(title="multiple of the usual move", gt=0, le=1000), Word(step=0.5)] = 4.0

    def template(self) -> str:
        return (
            "Take the moves of {series} from one value to the next: label the {largest} largest, and mark those of "
            "more than {times} times the usual move."
        )

    def on_line(self, line: Line, study: Study) -> LineResult:
        values = line.counted
        since = before_places(values)
        change, share = moves(values, since)
        usual = usual_move(values)
        if np.isnan(usual):
            return LineResult()
        curves = tuple(
            Curve(
                id=shape_id(study.entry_id, line.name, name),
                entry=study.entry_id,
                series=line.name,
                name=name,
                kind=self.kind,
                periods=line.periods,
                value=numbers,
                drawn=False,
            )
            for name, numbers in (("moves", change), ("moves, percent", share))
        )
        size = np.nan_to_num(np.abs(change))
        over = np.flatnonzero(size > self.times * usual)
        order = np.argsort(-size, kind="stable")[: max(self.largest, 0)]
        labelled = [int(at) for at in order if size[at] > 0]
        shown = [*labelled, *(place for place in over[:MOST_MARKED].tolist() if place not in labelled)]
        texts = [_change_label(study, change, share, since, at) if at in labelled else "" for at in shown]
        points = Points(
            id=shape_id(study.entry_id, line.name, "marks"),
            entry=study.entry_id,
            series=line.name,
            name="moves",
            periods=line.periods[shown],
            value=line.value[shown],
            labels=tuple(texts),
            # a move is named where the line does not run
            beside=tuple(Beside.ABOVE if change[at] >= 0 else Beside.BELOW for at in shown),
            urgent=False,
        )
        chance = chances(change)
        ends, starts = study.grain.labels(line.periods[labelled]), study.grain.labels(line.periods[since[labelled]])
        return LineResult(
            shapes=(*curves, points) if shown else curves,
            touched=int(over.size),
            rows=tuple(
                (
                    line.name,
                    end,
                    float(change[at]),
                    _known(share[at]),
                    float(size[at] / usual) if usual else None,
                    chance[at],
                    "yes" if chance[at] < SIGNIFICANT else "no",
                    start,
                )
                for at, start, end in zip(labelled, starts, ends, strict=True)
            ),
            findings=tuple(
                Finding(
                    line.name,
                    int(line.periods[at]),
                    float(line.value[at]),
                    study.entry_id,
                    against=float(line.value[since[at]]),
                    distance=float(change[at]),
                    state="moved",
                    found_by="moves",
                )
                for at in shown
            ),
            warnings=tuple(from_below_zero(line.name, int((~np.isnan(share) & (values[since] < 0)).sum()))),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        if not any(effect.shapes for effect in made):
            raise Refusal("A move needs two values.", todo="Bring in more rows, or fill blanks.")
        columns = (
            SERIES,
            period("period", "Period"),
            measure("move", "Move"),
            percent("percent", "Percent"),
            measure("times", "Times the usual move"),
            p_value("p", "p: so far from the middle move by chance, all moves allowed for"),
            text("significant", "Significant at 5 %"),
            period("since", "Since"),
        )
        return Account("unusual", (table("Largest moves", columns, rows_of(made)),))


def moves(values: Floats, since: Ints) -> tuple[Floats, Floats]:
    """Return the change from the previous number, absolute and in percent; NaN if there is none.

    since: index of the previous number, as `before_places` gives it
    """
    before = np.where(since < np.arange(values.size), values[since], np.nan) if values.size else values
    change = values - before
    with np.errstate(divide="ignore", invalid="ignore"):
        percent_ = np.where(before != 0, 100 * change / np.abs(before), np.nan)
    return change, percent_


def chances(change: Floats) -> list[float]:
    """Return for each move the chance of one so far from the median among as many normal moves: two-sided, with the
    scaled median absolute deviation as spread, times the number of moves (Bonferroni); 1 where there is no move.
    """
    known = change[~np.isnan(change)]
    if not known.size:
        return [1.0] * change.size
    middle = float(np.median(known))
    spread = MAD_TO_SD * float(np.median(np.abs(known - middle)))
    away = np.abs(np.nan_to_num(change, nan=middle) - middle)
    if not spread:
        return [0.0 if distance else 1.0 for distance in away]
    return [min(1.0, known.size * math.erfc(distance / spread / math.sqrt(2))) for distance in away]


def before_places(values: Floats) -> Ints:
    """Return the index of the previous number for each point, its own if there is none."""
    place = np.where(np.isnan(values), -1, np.arange(values.size))
    last = np.concatenate(([-1], np.maximum.accumulate(place)[:-1])) if values.size else place
    return np.where(last < 0, np.arange(values.size), last)


def _change_label(study: Study, change: Floats, share: Floats, since: Ints, at: int) -> str:
    percent = "" if np.isnan(share[at]) else f" ({signed(float(share[at]))} %)"
    apart = at - int(since[at])
    over_more = f" over {apart} {study.grain.plural}" if apart > 1 else ""
    return f"{signed(float(change[at]))}{percent}{over_more}"


def _known(value: float) -> float | None:
    return None if np.isnan(value) else float(value)
