"""Judge many series at once, and say which of them need a look and why."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from zembra.core.english import number
from zembra.core.entries.projections.projectiondoubts import MANY_GAPS
from zembra.core.entries.projections.seriesprojection import Shown
from zembra.core.errors import Refusal
from zembra.core.judging.asked import JudgingRequest, LedgerBefore
from zembra.core.judging.candidates import OWN, Candidate, quick_candidates
from zembra.core.judging.verdict import AS_IT_IS, Bench, Verdict, judge, lead_over
from zembra.core.projection.lead import Lead

BETTER = 0.95  # of the error of the words as they are: below it another method is worth a word
UNLIKE = 1.0  # scaled error from which the usual step of a season does as well
GRAVE, SERIOUS, SLIGHT = 3.0, 2.0, 1.0


@dataclass(frozen=True, slots=True)
class SeriesVerdict:
    """The verdict on one series.

    error: scaled error of the projection; best, best_error: the best candidate and its error
    inside: share in percent by level, and whether it is too small by chance
    reasons, weight: why and how urgently it needs a look
    refused: why it could not be judged
    """

    series: str
    points: int = 0
    starts: int = 0
    error: float | None = None
    wape: float | None = None
    best: Candidate | None = None
    best_error: float | None = None
    inside: tuple[tuple[float, float, bool], ...] = ()
    reasons: tuple[str, ...] = ()
    weight: float = 0.0
    refused: str = ""

    @property
    def rank(self) -> tuple[float, float, str]:
        """The sort key; the most urgent comes first."""
        return (-self.weight, -(self.error or 0.0), self.series)


def series_verdicts(
    asked: JudgingRequest, names: Sequence[str], tell: Callable[[SeriesVerdict], None]
) -> list[SeriesVerdict]:
    """Judge each series, and sort by urgency. Raises Refusal if there is no projection.

    tell: called with each verdict
    """
    then = LedgerBefore.before_entry(asked)
    found = []
    for name in names:
        verdict = _of_series(then, name)
        tell(verdict)
        found.append(verdict)
    return found


def _of_series(then: LedgerBefore, name: str) -> SeriesVerdict:
    try:
        judgeable, study = then.judgeable((name,)), then.study
        shown = then.entry.shown(judgeable.line, study)
        starts = then.starting_points((name,))
    except Refusal as refusal:
        return SeriesVerdict(name, refused=str(refusal), reasons=(str(refusal),), weight=GRAVE)
    bench = Bench(quick_candidates(then.entry), [], judgeable, study, starts, shown.history.season)
    judged = {candidate.key: judge(candidate, bench, lambda: None) for candidate in bench.candidates}
    own = judged[OWN]
    if own.score is None:
        return SeriesVerdict(name, refused=own.refused, reasons=(own.refused,), weight=GRAVE)
    scored = [(_error(judged[candidate.key]), candidate) for candidate in bench.candidates]
    best_error, best = min(
        ((error, tried) for error, tried in scored if error is not None), key=lambda item: item[0], default=(None, None)
    )
    error = _error(own)
    lead = None
    if best is not None and best.key != OWN:
        lead = lead_over(own, judged[best.key], bench)
    reasons = list(_reasons(own, error, best_error, best, lead, shown))
    return SeriesVerdict(
        name,
        own.score.points,
        own.score.starts,
        error,
        own.score.wape,
        best,
        best_error,
        tuple(
            (level, 100 * many / own.score.points, many < low)
            for (level, many), (_, low, _) in zip(own.score.inside, own.chance, strict=True)
        ),
        tuple(said for _, said in reasons),
        max((weight for weight, _ in reasons), default=0.0) + 0.01 * len(reasons),
    )


def _error(verdict: Verdict) -> float | None:
    return None if verdict.score is None else verdict.score.mase


def _reasons(
    own: Verdict, error: float | None, best_error: float | None, best: Candidate | None, lead: Lead | None, shown: Shown
) -> Iterator[tuple[float, str]]:
    """Return weight and reasons for a look."""
    assert own.score is not None
    if error is not None and best_error is not None and best is not None and lead and best_error < BETTER * error:
        # an insignificant lead is no reason to change the method
        weight = SERIOUS if lead.sure else SLIGHT
        yield weight, f"{best.name.lower()} has an error of {best_error:.2f} for {error:.2f}, {lead.said(AS_IT_IS)}"
    elif error is not None and error >= UNLIKE:
        yield SLIGHT, f"no better than the usual step of a season: {error:.2f}"
    for (level, many), (_, low, _) in zip(own.score.inside, own.chance, strict=True):
        if many < low:
            yield SERIOUS, f"limits at {number(level)} % held {100 * many / own.score.points:.0f} %"
    if own.refused:
        yield SERIOUS, f"refused from some starting points: {own.refused}"
    if shown.shifted_lately:
        yield SERIOUS, "the level shifted lately"
    missing = 1 - shown.history.points / max(1, shown.history.size)
    if missing > MANY_GAPS:
        yield SLIGHT, f"{100 * missing:.0f} % gaps"
