"""The engine of the ledger: what an entry does to errors, where order matters, results of lines, sentences that need the
calendar."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest
from scipy import stats

from tests.help import run_csv, run_values
from zembra.core.entries.projections.clauses.methods import LastValue
from zembra.core.entries.projections.clauses.projected import AheadPeriods, NoSeason
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.repairs.clauses.outliers import OutsideLimits
from zembra.core.entries.repairs.follow import Follow
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.ledger.compare import error_table
from zembra.core.ledger.effect import effect_table

CARRIED = Projection(ahead=AheadPeriods(count=5), method=LastValue(), season=NoSeason())
NOISE = (100 + np.random.default_rng(4).normal(0, 3, 60)).round(2).tolist()
SPIKED = [*NOISE[:50], 400.0, *NOISE[51:]]


def test_the_change_of_the_error_is_a_percentage_of_the_error_without_the_entry() -> None:
    without, with_it = (run_values(SPIKED, Outliers(rule=OutsideLimits(high=high)), CARRIED) for high in (1000, 200))
    found = error_table(with_it, without)
    assert found
    ((name, old, new, change),) = found.rows
    assert str(name).startswith("riders")
    assert isinstance(old, float)
    assert isinstance(new, float)
    assert new < old
    assert change == pytest.approx(100 * (new / old - 1))
    assert error_table(run_values(SPIKED), without) is None
    added = error_table(with_it, run_values(SPIKED))
    assert added
    assert added.rows[0][1] is None
    assert added.rows[0][3] is None


def test_the_trend_of_an_effect_begins_with_what_counts() -> None:
    """After a level shift that begins the series anew, x is counted from there."""
    values = [*np.linspace(5, 20, 20), *(100 + 2.0 * np.arange(20) + np.random.default_rng(0).normal(0, 1, 20))]
    begun = run_values(values, Shift(on=date(2026, 1, 21), season=None, then=(Follow.BEGIN,)))
    spiked = run_values(
        [*values[:30], 900.0, *values[31:]], Shift(on=date(2026, 1, 21), season=None, then=(Follow.BEGIN,))
    )
    before, _ = effect_table(begun.state.lines, spiked.state.lines, begun.state.grain)[0].rows
    after = np.flatnonzero(~np.isnan(begun.state.lines[0].since_begin(begun.state.lines[0].counted)))
    line = stats.linregress(np.arange(after.size), np.array(values)[after])
    assert before[7] == pytest.approx(line.rvalue**2)
    assert str(before[6]).startswith(f"y = {line.intercept:.4f}"[:8])


def test_only_lines_that_came_to_something_have_results() -> None:
    text = "day,riders,crew\n" + "".join(f"2026-01-{n:02},{n},\n" for n in range(1, 31))
    found = run_csv(text.encode(), Shifts(shortest=7, season=None)).reports[-1].outcome.results
    assert [result.series for result in found] == ["riders"]


def test_sentences_that_stand_once_are_said_with_the_nouns_of_the_calendar() -> None:
    weeks = "week,riders\n" + "".join(f"2026-W{n:02},{n}\n" for n in range(1, 20))
    source, calendar, projection = run_csv(weeks.encode(), CARRIED).reports
    assert source.sentence.startswith("Each week ")
    assert "; a week with no row is" in calendar.sentence
    assert "5 weeks on" in projection.sentence
    assert run_values([1.0, 2.0]).reports[0].sentence.startswith("Each day ")
