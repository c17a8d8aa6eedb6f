"""Candidates judged on held-back periods: only what was known then is shown, and the numbers are those of the method."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest

from tests.help import AS_OF, FIRST, daily_csv
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.judging import Asked, Judging, found_lengths, judge, ljung_box, usual_judging
from zembra.core.ledger.clauses.methods import LastSeason
from zembra.core.ledger.clauses.projected import AheadPeriods, LimitsWord, SeasonOf
from zembra.core.ledger.clauses.windows import Window
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.entries.readings.average import Average
from zembra.core.ledger.entries.repairs.outliers import Outliers
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run
from zembra.core.ledger.start import first_ledger
from zembra.core.ledger.state import Study

RNG = np.random.default_rng(8)
VALUES = np.round(200 + 30 * np.sin(np.arange(150) * 2 * np.pi / 7) + RNG.normal(0, 3, 150), 1)


def asked(values: list[object], *entries: Entry, judging: Judging | None = None) -> Asked:
    brought = bring_in(daily_csv(values))
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    projection = Projection(ahead=AheadPeriods(count=14), method=LastSeason(), season=SeasonOf(), limits=LimitsWord.OWN)
    every = [*entries, projection]
    ledger = Ledger(
        intake=brought.how, entries=(*begun.entries, *(record(one, f"e{n}") for n, one in enumerate(every)))
    )
    result = run(brought.observations, ledger, AS_OF)
    study = Study(result.state.expected, AS_OF, "p")
    usual = usual_judging(projection, result.state.lines[0], study)
    return Asked(brought.observations, ledger, f"e{len(entries)}", "riders", AS_OF, "test.csv", judging or usual, study)


def test_the_own_words_are_judged_on_what_happened() -> None:
    one = asked(VALUES.tolist(), judging=Judging(ahead=14, starts=4, apart=10))
    bench = one.bench()
    firsts = [150 - 14 - 10 * back for back in (3, 2, 1, 0)]
    assert [start.label for start in bench.starts] == [str(FIRST + timedelta(n)) for n in firsts]
    verdict = judge(bench.candidates[0], bench, lambda: None)
    errors = np.concatenate([VALUES[n : n + 14] - np.tile(VALUES[n - 7 : n], 2) for n in firsts])
    assert verdict.score
    assert verdict.score.mae == pytest.approx(np.abs(errors).mean())
    assert verdict.score.bias == pytest.approx(errors.mean())
    scales = [np.abs(VALUES[7:n] - VALUES[: n - 7]).mean() for n in firsts]
    assert verdict.score.mase == pytest.approx(np.abs(errors).mean() / np.mean(scales))
    first_day = np.abs([VALUES[n] - VALUES[n - 7] for n in firsts]).mean()
    assert verdict.by_ahead[0].error == pytest.approx(first_day / np.mean(scales))
    assert verdict.chance[1][0] == 95
    np.testing.assert_allclose(verdict.left[7:], VALUES[7:] - VALUES[:-7])
    box, chance = ljung_box(verdict.left[7:], 10)
    from statsmodels.stats.diagnostic import acorr_ljungbox

    library = acorr_ljungbox(verdict.left[7:], lags=[10])
    assert box == pytest.approx(float(library["lb_stat"].iloc[0]))
    assert chance == pytest.approx(float(library["lb_pvalue"].iloc[0]), rel=1e-6)


def test_no_entry_before_the_projection_has_looked_ahead() -> None:
    """A spike that only what came later makes an outlier, and values that are held back, change nothing of what is
    said."""
    values: list[object] = VALUES.tolist()
    poisoned = [*values[:136], *([1e7] * 14)]
    entries = (Outliers(), Average(window=Window(length=7, need=3)))
    judging = Judging(ahead=14, starts=1, apart=14)
    clean, spoiled = (asked(some, *entries, judging=judging).bench() for some in (values, poisoned))
    said = [judge(bench.candidates[0], bench, lambda: None).folds[0] for bench in (clean, spoiled)]
    assert said[0] is not None
    assert said[1] is not None
    np.testing.assert_array_equal(said[0].mean, said[1].mean)
    np.testing.assert_array_equal(clean.starts[0].known.value, spoiled.starts[0].known.value)
    assert clean.starts[0].study.as_of == date(2026, 5, 16)
    # the last number known then stands out from one neighbour only: today both are known, and it is set aside
    jump: list[object] = [*values]
    jump[135] = 900.0
    bench = asked(jump, Outliers(), judging=judging).bench()
    assert bench.starts[0].known.counted[-1] == 900
    assert np.isnan(bench.line.counted[135])


def test_candidates_and_seasons_are_told_apart_and_share_their_scale() -> None:
    one = asked(VALUES.tolist(), judging=Judging(ahead=14, starts=2, apart=14))
    bench, verdicts = one.verdicts((0, 3), lambda share: None)
    _, others = one.verdicts((1, 3), lambda share: None)
    _, rest = one.verdicts((2, 3), lambda share: None)
    every = {**verdicts, **others, **rest}
    assert set(every) == {candidate.key for candidate in bench.every}
    scales = {round(v.score.mae / v.score.mase, 9) for v in every.values() if v.score and v.score.mase}
    assert len(scales) == 1
    lengths = {season.length: season for season in bench.seasons}
    assert lengths[365].candidate is None
    assert lengths[7].chance is not None
    assert lengths[7].chance < 1e-10
    assert lengths[7].cycles == 21
    assert {7}.issubset(found_lengths(VALUES))
    with pytest.raises(Refusal, match="too short"):
        asked([1.0, 5, 2, 7, 3, 8], judging=Judging(ahead=5, starts=1, apart=1)).bench()
