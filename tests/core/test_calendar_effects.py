"""Effects of the calendar beside the season: the regression against densities, the effects against simulated truth."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from functools import partial

import numpy as np
import pytest
from scipy.stats import f_oneway, multivariate_normal

from tests.help import run_values
from zembra.core.calendar.closed import named_holidays
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.entries.projections.calendarleft import _chance, calendar_left
from zembra.core.entries.projections.clauses.methods import AnyMethod, BySmoothing, CalendarWord, LastValue, UsualMean
from zembra.core.entries.projections.clauses.projected import AheadPeriods, NoSeason
from zembra.core.entries.projections.projectedhistory import calendar_row
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.errors import Refusal
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import CalendarRow, History, RowStep
from zembra.core.projection.calendareffects.effects import calendar_effects
from zembra.core.projection.calendareffects.publicholidays import (
    brackets_of_hours,
    brackets_of_weeks,
    codes_of,
    names_in,
)
from zembra.core.projection.calendareffects.shrunken import shrunken
from zembra.core.projection.models import average_of_models, average_of_models_each
from zembra.core.projection.takenoff import MOST_VALUES

LEVELS = (80.0, 95.0)
DAYS = np.arange(np.datetime64("2021-03-01"), np.datetime64("2025-03-01"))


def row(step: RowStep, moments: np.ndarray) -> CalendarRow:
    return CalendarRow(step, step, 7, lambda count: moments[:count])


def summery(size: int, seed: int = 0) -> np.ndarray:
    """Days with a week, a year and a quiet turn of the year."""
    days = DAYS[:size]
    angle = 2 * np.pi * (days - np.datetime64("2021-07-01")).astype(float) / 365.25
    month = days.astype("datetime64[M]").astype(int) % 12 + 1
    turn = (month == 12) & ((days - days.astype("datetime64[M]")).astype(int) >= 23)
    week = np.array([0, 2, 4, 4, 8, 30, 25])[(days.astype(int) + 3) % 7]
    drawn = np.random.default_rng(seed).normal(0, 6, size)
    return np.asarray(400 + 60 * np.cos(angle) - 90 * turn + week + drawn)


def history(values: np.ndarray, calendar: CalendarRow | None) -> History:
    return History(values, np.ones(values.size, dtype=bool), 7, 7, calendar)


def test_the_evidence_is_the_density_of_what_was_seen_and_the_variances_make_it_likely() -> None:
    rng = np.random.default_rng(3)
    columns = rng.normal(size=(60, 7))
    target = columns[:, :3] @ np.array([2.0, -1.0, 0.5]) + rng.normal(size=60)
    groups = [np.arange(3), np.arange(3, 7)]
    found = shrunken(columns.T @ columns, columns.T @ target, float(target @ target), 60, groups)
    inverse = np.linalg.inv(found.covariance) - columns.T @ columns / found.variance
    priors = 1 / np.diag(inverse)
    np.testing.assert_allclose(found.coefficients, found.covariance @ columns.T @ target / found.variance)
    assert priors[0] == pytest.approx(priors[1])
    assert priors[0] > 20 * priors[5], "columns without effect are shrunken away"

    def density(variance: float, prior: np.ndarray) -> float:
        return float(
            multivariate_normal.logpdf(target, cov=variance * np.eye(60) + columns * prior @ columns.T)
            + 30 * np.log(2 * np.pi)
        )

    assert found.evidence == pytest.approx(density(found.variance, priors), abs=1e-3)
    for by in (0.7, 1.4):
        first = np.where(np.arange(7) < 3, by, 1.0)
        assert density(found.variance * by, priors) < found.evidence
        assert density(found.variance, priors * first) < found.evidence + 1e-3


def test_a_year_of_days_is_found_with_its_months_and_its_turn_and_goes_on() -> None:
    size = 1200
    found = calendar_effects(summery(size), row(RowStep.DAY, DAYS))
    assert found
    assert found.names == ("the year", "the turn of the year")
    told = {effect.occasion: effect for effect in found.told()}
    assert told["July"].value > 40 > -40 > told["January"].value
    assert told["28 December"].value == pytest.approx(-90, abs=25)
    assert all(effect.error > 0 for effect in told.values())
    truth = summery(size + 56, 0)[size:]
    with_year, without = (
        average_of_models(history(summery(size + 56)[:size], calendar), 56, LEVELS)
        for calendar in (row(RowStep.DAY, DAYS), None)
    )
    errors = [float(np.abs(made.mean - truth).mean()) for made in (with_year, without)]
    assert errors[0] < min(5.5, 0.8 * errors[1])
    assert {effect.family for effect in with_year.effects} == set(found.names)
    assert not without.effects
    inside = (with_year.limits[1].lower <= truth) & (truth <= with_year.limits[1].upper)
    assert inside.mean() > 0.85


def test_effects_that_multiply_are_taken_off_the_logarithms() -> None:
    growing = np.exp(summery(1100) / 130 + np.arange(1100) / 900)
    found = calendar_effects(growing, row(RowStep.DAY, DAYS))
    assert found
    assert found.in_logs
    made = average_of_models(history(growing, row(RowStep.DAY, DAYS)), 30, LEVELS)
    assert (made.halves[0].below > 0).all()
    assert (made.limits[1].lower > 0).all()


@pytest.mark.parametrize("kind", ["noise", "walk"])
def test_noise_has_no_effects_of_the_calendar(kind: str) -> None:
    kept = 0
    for seed in range(15):
        drawn = np.random.default_rng(seed).normal(0, 5, 700)
        kept += (
            calendar_effects(300 + (np.cumsum(drawn) if kind == "walk" else drawn), row(RowStep.DAY, DAYS)) is not None
        )
    assert kept <= 1


def test_hours_have_a_week_and_weeks_have_a_year() -> None:
    hours = np.arange(np.datetime64("2025-01-06T00"), np.datetime64("2025-03-03T00"))
    at = np.arange(hours.size)
    free = (at // 24 % 7 >= 5) * -20.0
    noise = np.random.default_rng(2).normal(0, 3, hours.size)
    found = calendar_effects(100 + 20 * np.sin(2 * np.pi * at / 24) + free + noise, row(RowStep.HOUR, hours))
    assert found
    told = {effect.occasion: effect.value for effect in found.told()}
    assert told["Sunday"] < told["Wednesday"] - 15
    weeks = DAYS[::7]
    wave = 100 + 30 * np.cos(2 * np.pi * np.arange(weeks.size) * 7 / 365.25) + noise[: weeks.size]
    of_weeks = calendar_effects(wave, row(RowStep.WEEK, weeks))
    assert of_weeks
    assert "the year" in of_weeks.names


def test_side_by_side_they_are_what_they_are_alone() -> None:
    calendar = row(RowStep.DAY, DAYS)
    both = [(history(summery(size, size), calendar), 14) for size in (700, 800)]
    for (shown, ahead), beside in zip(both, average_of_models_each(both, LEVELS), strict=True):
        np.testing.assert_allclose(average_of_models(shown, ahead, LEVELS).mean, beside.mean, rtol=1e-10)  # type: ignore[union-attr]


def test_the_sentence_names_them_and_a_word_takes_them_out() -> None:
    cells = summery(900).round(2).tolist()
    ahead = AheadPeriods(count=28)

    def report(entry: Projection) -> tuple[str, list[str], float]:
        told = run_values(cells, entry).reports[-1]
        rows = [table for table in told.outcome.evidence if table.title == "Effects of the calendar"]
        fitted = next(table for table in told.outcome.evidence if table.title == "How it did on held-back periods")
        return told.sentence, [str(one[2]) for table in rows for one in table.rows], float(fitted.rows[0][2])  # type: ignore[arg-type]

    sentence, occasions, error = report(Projection(ahead=ahead))
    assert "the year taken into account, tested all the way" in sentence
    assert occasions[:2] == ["January", "February"]
    without, none, worse = report(Projection(ahead=ahead, method=UsualMean(calendar=CalendarWord.NONE)))
    assert "without effects of the calendar" in without
    assert none == []
    assert error < worse
    assert report(Projection(ahead=ahead, season=NoSeason()))[1] == []


def test_public_holidays_of_a_chosen_place_are_taken_into_account() -> None:
    size = 1200
    days = DAYS[: size + 60]
    named = named_holidays("Ireland", 2020, 2026)
    free = np.array([day in named for day in days.astype(object)])
    values = summery(size + 60, 4) - 120.0 * free
    calendar = replace(row(RowStep.DAY, DAYS), place="Ireland", holidays=partial(named_holidays, "Ireland"))
    found = calendar_effects(values[:size], calendar)
    assert found
    assert found.names[-1] == "public holidays of Ireland"
    told = {effect.occasion: effect for effect in found.told()}
    saint = told["Saint Patrick's Day"]
    assert abs(saint.value + 120) < 3 * saint.error + 20
    # the same moments told in two parts
    effect, error = found.at(size, 60)
    np.testing.assert_allclose(found.at(size + 25, 35)[0], effect[25:])
    assert (error > 0).all()
    made, without = (average_of_models(history(values[:size], one), 60, LEVELS) for one in (calendar, None))
    held, ahead = values[size:], free[size:]
    assert ahead.any()
    assert np.abs(made.mean - held)[ahead].mean() < 0.4 * np.abs(without.mean - held)[ahead].mean()
    entry = Projection(ahead=AheadPeriods(count=28), method=UsualMean(holidays="Ireland"))
    report = run_values(values[:size].round(2).tolist(), entry).reports[-1]
    assert "with public holidays of Ireland" in report.sentence
    unknown = Projection(method=UsualMean(holidays="Nowhere"))
    assert "No public holidays are known for “Nowhere”" in str(
        run_values(values[:700].tolist(), unknown).reports[-1].problem
    )
    with pytest.raises(Refusal, match="Nowhere"):
        unknown.method.project(history(values[:700], row(RowStep.DAY, DAYS)), 5, LEVELS)
    both = [history(values[:700] + n, row(RowStep.DAY, DAYS)) for n in range(2)]
    unknown.method.fit_each(both)
    assert all(isinstance(one, Refusal) for one in unknown.method.project_each([(one, 5) for one in both], LEVELS))


def test_hours_and_weeks_have_columns_for_holidays_too() -> None:
    holidays = partial(named_holidays, "Ireland")
    hours = np.arange(np.datetime64("2025-03-01T00"), np.datetime64("2025-05-01T00"))
    names = names_in(holidays, hours)
    assert names == ("Easter Monday", "Saint Patrick's Day")
    together, apart = brackets_of_hours(holidays, names, hours)
    assert together.sum() == apart.sum() == 48
    (weeks,) = brackets_of_weeks(holidays, names, hours[::168])
    assert weeks.sum(axis=0).tolist() == [1, 1]
    assert codes_of(holidays, names, np.array([], dtype=np.int64)).size == 0
    new_year = np.array(["2025-01-01"], dtype="datetime64[D]").astype(np.int64)
    assert codes_of(holidays, names, new_year).tolist() == [len(names)], "a name that the history does not hold"


def test_hours_of_a_place_go_by_its_clock() -> None:
    grain = Grain(Unit.HOUR, zone="Europe/Paris")
    study = Study(Expected(grain), date(2026, 12, 1), "p")
    summer = grain.period(np.datetime64("2026-07-01T00:00").astype(object))
    found = calendar_row(study, summer)
    assert found
    assert str(found.moments_until(2)[0])[:13] == "2026-07-01T01"
    weekdays = Expected(Grain(Unit.DAY), weekdays=(0, 1, 2, 3, 4))
    friday = weekdays.grain.period(date(2026, 7, 3))
    closed = calendar_row(Study(weekdays, date(2026, 12, 1), "p"), friday)
    assert closed
    assert [str(day)[:10] for day in closed.moments_until(3)] == ["2026-07-03", "2026-07-06", "2026-07-07"]
    assert calendar_row(Study(Expected(Grain(Unit.MONTH)), date(2026, 12, 1), "p"), 5) is None


def test_of_a_very_long_history_the_newest_values_count_at_their_places() -> None:
    size = MOST_VALUES + 400
    days = np.arange(np.datetime64("2005-01-01"), np.datetime64("2025-01-01"))
    values = 100 + np.random.default_rng(1).normal(0, 3, size)
    values[size - 50] += 300
    long = average_of_models(history(values, row(RowStep.DAY, days)), 14, LEVELS)
    newest = average_of_models(history(values[400:], row(RowStep.DAY, days[400:])), 14, LEVELS)
    np.testing.assert_array_equal(long.mean, newest.mean)
    assert list(long.cut) == [place + 400 for place in newest.cut] == [size - 50]
    np.testing.assert_array_equal(long.left, np.concatenate((np.full(400, np.nan), newest.left)))
    back = average_of_models(history(values[: size - 30], row(RowStep.DAY, days)), 14, LEVELS, long)
    assert back.left.size == size
    before = average_of_models(history(values[:450], row(RowStep.DAY, days)), 14, LEVELS, long)
    np.testing.assert_array_equal(
        before.mean, average_of_models(history(values[:450], row(RowStep.DAY, days)), 14, LEVELS).mean
    )


@pytest.mark.parametrize(
    ("method", "named"),
    [
        (UsualMean(), ""),
        (UsualMean(calendar=CalendarWord.NONE), "month"),
        (BySmoothing(), "month"),
        (LastValue(), "weekday"),
    ],
    ids=["with effects", "without", "smoothing", "last value"],
)
def test_what_is_left_of_the_calendar_is_said_and_an_offer_takes_it_into_account(method: AnyMethod, named: str) -> None:
    entry = Projection(ahead=AheadPeriods(count=14), method=method)
    outcome = run_values(summery(1100).round(2).tolist(), entry).reports[-1].outcome
    said = [warning for warning in outcome.warnings if "differs by" in warning]
    assert [f"differs by {named} (F test" in warning for warning in said] == ([True] if named else [])
    assert [offer.params for offer in outcome.offers] == ([{"method": {"kind": "usual"}}] if named else [])
    noise = 300 + np.random.default_rng(1).normal(0, 5, 900)
    quiet = run_values(noise.round(2).tolist(), entry).reports[-1].outcome
    assert not any("differs by" in warning for warning in quiet.warnings)


def test_the_test_of_what_is_left_is_that_of_the_library() -> None:
    study = Study(Expected(Grain(Unit.DAY)), date(2026, 12, 1), "p")
    result = run_values(summery(400).round(2).tolist(), Projection(method=LastValue(), ahead=AheadPeriods(count=7)))
    (found,) = (one for one in result.reports[-1].outcome.results if isinstance(one, SeriesProjection))
    assert calendar_left(found, study) == ("weekday",)
    rest = found.found.left[~np.isnan(found.found.left)]
    weekdays = study.grain.weekdays(found.shown.periods)[~np.isnan(found.found.left)]
    theirs = f_oneway(*(rest[weekdays == day] for day in range(7)))
    assert _chance(rest, weekdays) == pytest.approx(theirs.pvalue, rel=1e-6)
