"""Find outliers by a rule or by hand, and treat them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools
from zembra.core.arithmetic.outliers import OutlierScores
from zembra.core.arithmetic.season import has_season
from zembra.core.calendar.lines import Line
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.entries.repairs.clauses.outliers import (
    Fate,
    FromNeighbours,
    FromSeason,
    OnlyMarked,
    PickedByHand,
    Reason,
    Rule,
    SetAside,
)
from zembra.core.grammar import Point, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, Deed, Finding, Table, measure, period, periods_of, text
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.shapes import Beside, Points, Shape, shape_id
from zembra.core.ledger.state import Offer, State, Study

MOST_LISTED = 300
FEWEST_ALIKE = 4  # values at one place of the season before they look like its peaks
ALIKE = 0.5  # share of what stands out that stands there


@dataclass(frozen=True, slots=True)
class SeasonalPeaks(SeriesResult):
    """Outliers that are peaks of a season.

    at_one_place: how many share one position in the season
    outliers: how many there are
    season: its length in periods
    """

    at_one_place: int
    outliers: int
    season: int


@register
class Outliers(LineEntry):
    kind: ClassVar[str] = "outliers"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Outliers"
    hint: ClassVar[str] = "Values that stand out: set aside, replace, pull in, or keep and mark."
    rank: ClassVar[int] = 3
    repairs: ClassVar[bool] = True
    passed_over: ClassVar[str] = "is not judged"

    then: Annotated[Fate, Field(title="what happens", discriminator="kind")] = SetAside()
    rule: Annotated[Rule, Field(title="what stands out", discriminator="kind")] = FromNeighbours()
    kept: Annotated[tuple[Point, ...], Field(title="points kept all the same"), Word(empty="none")] = ()
    reasons: Annotated[tuple[Reason, ...], Field(title="reasons noted")] = ()

    def template(self) -> str:
        if isinstance(self.rule, PickedByHand):
            return "{then} the values {rule}."
        return "{then} a value {rule}; in {series}[, keeping {kept}]."

    def words_for(self, series: str) -> dict[str, Any]:
        words = super().words_for(series)
        words["kept"] = [point.period for point in self.kept if point.series == series]
        words["reasons"] = [
            (reason.point.period, reason.text) for reason in self.reasons if reason.point.series == series
        ]
        if isinstance(self.rule, PickedByHand):
            words["rule"] = [point.period for point in self.rule.points if point.series == series]
        return words

    def on_line(self, line: Line, study: Study) -> LineResult:
        judged = self.rule.judge(line, study)
        kept = [study.grain.parse(point.period) for point in self.kept if point.series == line.name]
        stays = np.isin(line.periods, kept)
        out = judged.out & ~stays
        noted = {
            study.grain.parse(reason.point.period): reason.text
            for reason in self.reasons
            if reason.point.series == line.name
        }
        changes = out.any() and not isinstance(self.then, OnlyMarked)
        return LineResult(
            self.then.treated(line, out, judged, study) if changes else None,
            shapes=self._marks(line, judged.out, out, noted, study),
            touched=int(out.sum()),
            findings=self._found(line, judged, stays, noted, study),
            result=self._peaks(line, judged, study),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        findings = [finding for item in made for finding in item.findings][:MOST_LISTED]
        labels = study.grain.labels(periods_of(findings))
        rows = tuple(
            (finding.series, label, finding.value, finding.against, finding.distance, finding.state, finding.note)
            for finding, label in zip(findings, labels, strict=True)
        )
        columns = (
            SERIES,
            period("period", "Period"),
            measure("value", "Value"),
            measure("expected", "Expected"),
            measure("off", "Off by"),
            text("now", "Now"),
            text("reason", "Reason"),
        )
        listed = Table("What stands out", columns, rows, tuple(findings), (Deed.KEEP, Deed.NOTE))
        peaks = results_in(made, SeasonalPeaks)
        return Account(self.then.done, (listed,), offers=(self._offer(peaks[0]),) if peaks else ())

    def _offer(self, peaks: SeasonalPeaks) -> Offer:
        sentence = (
            f"{peaks.at_one_place} of the {peaks.outliers} in {peaks.series} stand at the same place of a season of "
            f"{peaks.season}: peaks, not slips."
        )
        words = {"rule": FromSeason(season=peaks.season).model_dump(mode="json")}
        return Offer(sentence, "Judge by the season", self.kind, words, change=True)

    @classmethod
    def suggest(cls, state: State) -> Outliers:
        return cls()

    def _peaks(self, line: Line, judged: OutlierScores, study: Study) -> SeasonalPeaks | None:
        """Detect seasonal peaks that the neighbour rule takes for outliers."""
        if not isinstance(self.rule, FromNeighbours):
            return None
        season = usual_season(study.expected)
        row = even_row(study.expected, line.periods)
        at = row.at[judged.out & (row.at >= 0)]
        if season is None or at.size < FEWEST_ALIKE:
            return None
        most = int(np.bincount(at % season).max())
        if most < ALIKE * at.size or not has_season(row.spread(line.counted), season):
            return None
        return SeasonalPeaks(line.name, most, int(at.size), season)

    def _marks(self, line: Line, judged: Bools, out: Bools, noted: dict[int, str], study: Study) -> tuple[Shape, ...]:
        """Return labelled points for noted reasons, and for outliers that are only marked."""
        notes = [noted.get(int(period_), "") for period_ in line.periods[judged][:MOST_LISTED]]
        at = np.flatnonzero(judged)[:MOST_LISTED]
        only = out[at] & isinstance(self.then, OnlyMarked)
        shown = [n for n, label in enumerate(notes) if label or only[n]]
        if not shown:
            return ()
        return (
            Points(
                id=shape_id(study.entry_id, line.name, "marks"),
                entry=study.entry_id,
                series=line.name,
                name="what stands out",
                periods=line.periods[at[shown]],
                value=line.value[at[shown]],
                labels=tuple(notes[n] for n in shown),
                beside=(Beside.SIDE,) * len(shown),
            ),
        )

    def _found(
        self, line: Line, judged: OutlierScores, stays: Bools, noted: dict[int, str], study: Study
    ) -> tuple[Finding, ...]:
        """Return the findings, the farthest off first."""
        off = line.value - judged.expected
        found = np.flatnonzero(judged.out)
        order = found[np.argsort(-np.nan_to_num(np.abs(off[found])), kind="stable")][:MOST_LISTED]
        now = "marked" if isinstance(self.then, OnlyMarked) else "out"
        return tuple(
            Finding(
                line.name,
                int(line.periods[at]),
                float(line.value[at]),
                study.entry_id,
                against=float(judged.expected[at]),
                distance=float(off[at]),
                state="kept" if stays[at] else now,
                note=noted.get(int(line.periods[at]), ""),
                found_by=f"{now}: {self.rule.label}",
                listed=True,
            )
            for at in order
        )
