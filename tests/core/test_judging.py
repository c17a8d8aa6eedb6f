"""Candidates judged on held-back periods: only what was known then is shown, and the numbers are those of the method."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest
from scipy import stats

from tests.help import AS_OF, FIRST, daily_csv
from zembra.core.arithmetic.correlation import ljung_box
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.methods import AnyMethod, LastSeason
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LimitsWord, SeasonOf
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.judging.asked import Judging, JudgingRequest, study_of, usual_judging
from zembra.core.judging.candidates import found_lengths
from zembra.core.judging.everyseries import series_verdicts
from zembra.core.judging.sums import added
from zembra.core.judging.verdict import bench_of, judge, lead_over, verdict_key
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run
from zembra.core.projection.ahead import HalfWidth, Projected
from zembra.core.projection.lead import Lead, lead_of

RNG = np.random.default_rng(8)
VALUES = np.round(200 + 30 * np.sin(np.arange(150) * 2 * np.pi / 7) + RNG.normal(0, 3, 150), 1)


def asked(values: list[object], *entries: Entry, judging: Judging | None = None) -> JudgingRequest:
    brought = bring_in(daily_csv(values))
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    projection = Projection(ahead=AheadPeriods(count=14), method=LastSeason(), season=SeasonOf(), limits=LimitsWord.OWN)
    every = [*entries, projection]
    ledger = Ledger(
        intake=brought.how, entries=(*begun.entries, *(record(one, f"e{n}") for n, one in enumerate(every)))
    )
    result = run(brought.observations, ledger, AS_OF)
    study = study_of(result.state, "p")
    usual = usual_judging(projection, result.state.lines[0], study)
    return JudgingRequest(brought.observations, ledger, ("riders",), AS_OF, "test.csv", judging or usual, study)


def test_the_own_words_are_judged_on_what_happened() -> None:
    one = asked(VALUES.tolist(), judging=Judging(ahead=14, starts=4, apart=10))
    bench = bench_of(one)
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
    clean, spoiled = (bench_of(asked(some, *entries, judging=judging)) for some in (values, poisoned))
    said = [judge(bench.candidates[0], bench, lambda: None).folds[0] for bench in (clean, spoiled)]
    assert said[0] is not None
    assert said[1] is not None
    np.testing.assert_array_equal(said[0].mean, said[1].mean)
    np.testing.assert_array_equal(clean.starts[0].known.line.value, spoiled.starts[0].known.line.value)
    assert clean.starts[0].study.as_of == date(2026, 5, 16)
    # the last number known then stands out from one neighbour only: today both are known, and it is set aside
    jump: list[object] = [*values]
    jump[135] = 900.0
    bench = bench_of(asked(jump, Outliers(), judging=judging))
    assert bench.starts[0].known.line.counted[-1] == 900
    assert np.isnan(bench.line.counted[135])


def test_seasons_are_told_apart() -> None:
    bench = bench_of(asked(VALUES.tolist(), judging=Judging(ahead=14, starts=2, apart=14)))
    lengths = {season.length: season for season in bench.seasons}
    assert lengths[365].candidate is None
    assert lengths[7].chance is not None
    assert lengths[7].chance < 1e-10
    # by the 122 days before the first starting point
    assert lengths[7].cycles == 17
    assert {7}.issubset(found_lengths(VALUES))
    # what is held back shows no season to those that are judged on it
    quiet = 200 + np.random.default_rng(1).normal(0, 3, 200)
    quiet[150:] += 60 * np.sin(np.arange(50) * 2 * np.pi / 11)
    bench = bench_of(asked(quiet.round(1).tolist(), judging=Judging(ahead=25, starts=2, apart=25)))
    assert 11 in found_lengths(quiet)
    assert 11 not in {season.length for season in bench.seasons}
    with pytest.raises(Refusal, match="two full cycles"):
        bench_of(asked([1.0, 5, 2, 7, 3, 8], judging=Judging(ahead=5, starts=1, apart=1)))


ROUTES = ("Harbour Loop", "North Head", "Outer Isles")


ROUTES = ("Harbour Loop", "North Head", "Outer Isles")


def of_routes(*values: np.ndarray, method: AnyMethod | None = None) -> JudgingRequest:
    """Several series under one projection, all of them asked for."""
    rows = [
        f"{FIRST + timedelta(n)},{name},{one!r}"
        for name, v in zip(ROUTES, values, strict=False)
        for n, one in enumerate(v.tolist())
    ]
    brought = bring_in("\n".join(["day,route,riders", *rows]).encode())
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    projection = Projection(ahead=AheadPeriods(count=7), method=method or LastSeason(), season=SeasonOf())
    ledger = Ledger(intake=brought.how, entries=(*begun.entries, record(projection, "p")))
    result = run(brought.observations, ledger, AS_OF)
    names = tuple(line.name for line in result.state.lines)
    judging = Judging(ahead=7, starts=3, apart=7)
    return JudgingRequest(brought.observations, ledger, names, AS_OF, "t.csv", judging, study_of(result.state, "p"))


def test_a_sum_is_judged_as_such_and_against_the_sum_of_projections() -> None:
    noise = RNG.normal(0, 5, (2, 140))
    alike, apart = noise[0] + VALUES[:140], noise[1] + 3 * VALUES[:140]
    one = of_routes(alike, apart)
    bench = bench_of(one)
    np.testing.assert_allclose(bench.line.value, alike + apart)
    of_sum, each = (judge(candidate, bench, lambda: None) for candidate in bench.candidates[:2])
    assert bench.candidates[1].each
    # the last season of a sum is the sum of the last seasons
    errors = np.concatenate([(alike + apart)[n : n + 7] - (alike + apart)[n - 7 : n] for n in (119, 126, 133)])
    for verdict in (of_sum, each):
        assert verdict.score
        assert verdict.score.mae == pytest.approx(np.abs(errors).mean())
    assert len({round(v.score.mae / v.score.mase, 9) for v in (of_sum, each) if v.score and v.score.mase}) == 1
    np.testing.assert_allclose(each.left[7:], (alike + apart)[7:] - (alike + apart)[:-7])


def test_limits_of_added_projections_count_how_their_errors_go_together() -> None:
    errors = RNG.normal(0, 1, 200)
    halves = (HalfWidth(80, np.full(3, 3.0), np.full(3, 4.0)),)

    def said(left: np.ndarray) -> Projected:
        return Projected("m", np.full(3, 10.0), halves, left=left)

    together = added([said(errors), said(2 * errors)])
    np.testing.assert_allclose(together.mean, 20)
    np.testing.assert_allclose(together.halves[0].below, 6)
    against = added([said(errors), said(-errors)])
    np.testing.assert_allclose(against.halves[0].above, 0, atol=1e-6)
    other = RNG.normal(0, 1, 200)
    rho = np.corrcoef(errors, other)[0, 1]
    np.testing.assert_allclose(added([said(errors), said(other)]).halves[0].below, np.sqrt(18 + 18 * rho))


def test_every_series_at_a_glance_tells_first_what_needs_a_look() -> None:
    steady = 200 + 30 * np.sin(np.arange(140) * 2 * np.pi / 7) + np.random.default_rng(8).normal(0, 3, 140)
    growing = steady + 4.0 * np.arange(140)
    told: list[str] = []
    one = of_routes(steady, growing, np.full(140, 5.0))
    found = {row.series: row for row in series_verdicts(one, one.series, lambda row: told.append(row.series))}
    assert told == list(one.series)
    assert [row.series for row in sorted(found.values(), key=lambda row: row.rank)] == [
        "Outer Isles",
        "North Head",
        "Harbour Loop",
    ]
    assert "same" in found["Outer Isles"].refused
    # a season come again misses growth, which a line does not
    assert found["North Head"].best
    assert found["North Head"].best.key != "own"
    assert any("has an error of" in why for why in found["North Head"].reasons)
    bench = bench_of(replace(one, series=("North Head",)))
    verdict = judge(bench.candidates[0], bench, lambda: None)
    assert verdict.score
    assert found["North Head"].error == verdict.score.mase
    share, chance = 100 * verdict.score.inside[0][1] / verdict.score.points, verdict.chance[0]
    assert found["North Head"].inside[0] == (80, share, verdict.score.inside[0][1] < chance[1])


def test_a_lead_is_more_than_chance_only_where_it_is_had_nearly_everywhere() -> None:
    apart, half = ([np.arange(4) + step * n for n in range(8)] for step in (4, 2))
    own = np.full(8, 2.0)
    often, nearly, always = (np.array([1.0] * many + [3.0] * (8 - many)) for many in (6, 7, 8))

    def lead(errors: np.ndarray, periods: list[np.ndarray], tried: int = 1) -> Lead:
        found = lead_of(errors, own, periods, tried)
        assert found
        return found

    assert lead(often, apart).chance == pytest.approx(stats.binomtest(6, 8, alternative="greater").pvalue)
    assert (
        lead(often, apart).said("now")
        == "nearer than now on 6 of 8 starting points, which chance alone does in up to 14 of 100 cases"
    )
    assert lead(nearly, apart).said("now") == "nearer than now on 7 of 8 starting points, more than chance"
    # the best of many is often better by chance, and those that hold back the same periods say the same
    assert not lead(nearly, apart, 11).sure
    assert lead(always, apart, 11).said("now").endswith("8 of 8 starting points, more than chance though 11 were tried")
    shared = lead(always, half)
    assert (shared.nearer, shared.points, shared.apart, shared.sure) == (8, 8, 4, False)
    assert "of which 4 hold back periods of their own, which chance alone does in up to 6 of 100 cases" in shared.said(
        "now"
    )
    assert lead_of(own, nearly, apart, 1) is None
    assert lead(np.array([1.0, np.nan, *[1.0] * 6]), apart).points == 7


@pytest.mark.parametrize("step", [4, 2], ids=["apart", "half of their periods shared"])
def test_a_lead_that_is_none_is_hardly_ever_called_more_than_chance(step: int) -> None:
    """Of eleven candidates that are as good as the own words the best one."""
    rng = np.random.default_rng(6)
    periods = [np.arange(4) + step * n for n in range(8)]
    sure = 0
    for _ in range(400):
        said = np.abs(rng.normal(0, 1, (12, 40)))
        own, *others = (np.array([row[held].mean() for held in periods]) for row in said)
        leads = [lead_of(errors, own, periods, 11) for errors in others]
        sure += any(lead is not None and lead.sure for lead in leads)
    assert sure <= 0.05 * 400


def test_what_is_told_of_a_lead_is_that_of_the_errors_on_held_back_periods() -> None:
    bench = bench_of(asked(VALUES.tolist(), judging=Judging(ahead=7, starts=8, apart=7)))
    own, *others = (judge(candidate, bench, lambda: None) for candidate in bench.candidates[:4])
    for other in others:
        lead = lead_over(own, other, bench)
        assert own.score
        assert other.score
        assert (lead is None) == (other.score.mae >= own.score.mae)
        if lead:
            nearer = sum(
                np.abs(said.mean - start.actual).mean() < np.abs(mine.mean - start.actual).mean()
                for said, mine, start in zip(other.folds, own.folds, bench.starts, strict=True)
                if said and mine
            )
            assert (lead.nearer, lead.points, lead.apart, lead.tried) == (nearer, 8, 8, len(bench.every) - 1)


def test_errors_of_histories_that_began_apart_are_laid_side_by_side_at_their_newest() -> None:
    errors = RNG.normal(0, 1, 200)
    halves = (HalfWidth(80, np.full(3, 3.0), np.full(3, 4.0)),)
    long, short = (Projected("m", np.zeros(3), halves, left=left) for left in (errors, errors[70:]))
    np.testing.assert_allclose(added([long, short]).halves[0].below, 6)


def test_a_sum_of_projections_is_remembered_beside_the_projection_of_the_sum() -> None:
    one = asked(VALUES.tolist())
    bench = bench_of(one)
    whole = bench.candidates[0]
    assert verdict_key(one, bench, whole) != verdict_key(one, bench, replace(whole, each=True))
