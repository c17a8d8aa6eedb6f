"""What Zembra says of its own numbers: how far limits were tested, what it could not see, which scale, by which name."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest
from pydantic import ValidationError

from tests.help import FIRST, daily_csv, run_csv, run_values
from zembra.core.calendar.lines import Line
from zembra.core.dress.dresswords import Side
from zembra.core.dress.model import FromValue, HighValue, LineDress, Picture, ValueScale
from zembra.core.english import counted, with_article
from zembra.core.entries.projections.clauses.methods import LastSeason
from zembra.core.entries.projections.clauses.projected import AheadPeriods, SeasonOf
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.between import Between
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.readings.marks import Marks
from zembra.core.entries.repairs.clauses.derivations import PerPeriod
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.derive import Derive
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.figure.build import build_figure
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.figure.parts.area import AreaView
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Area
from zembra.core.projection.ahead import History, Projected, for_gaps, normal_halves
from zembra.core.projection.backtest import fold_back


def wave(size: int) -> list[float]:
    return (100 + 10 * np.sin(2 * np.pi * np.arange(size) / 7) + np.arange(size) % 3).round(1).tolist()


def projected(size: int, ahead: int, season: int = 7) -> Result:
    entry = Projection(ahead=AheadPeriods(count=ahead), method=LastSeason(), season=SeasonOf(season=season))
    return run_values(wave(size), entry)


@pytest.mark.parametrize(("size", "ahead"), [(70, 50), (120, 90), (300, 30)])
def test_limits_say_how_far_they_were_tested(size: int, ahead: int) -> None:
    result = projected(size, ahead)
    (tested,) = {one.tested for one in result.state.shapes if isinstance(one, Area)}
    assert tested is not None
    assert 0 < tested <= ahead
    assert tested <= size // 2
    told = result.reports[-1].sentence
    if tested < ahead:
        assert f"{tested} day" in told
    shapes = [one for one in build_figure(result, FigureSettings()).shapes if isinstance(one, AreaView)]
    assert {one.tested for one in shapes} == {tested}


def test_what_could_not_be_held_back_is_called_untested() -> None:
    result = projected(17, 15)
    assert {one.tested for one in result.state.shapes if isinstance(one, Area)} == {0}
    assert "untested" in result.reports[-1].sentence
    assert "tested on held-back" not in result.reports[-1].sentence.replace("untested", "")


def test_a_season_of_less_than_two_cycles_is_refused_with_what_to_do() -> None:
    problem = projected(50, 7, season=30).reports[-1].problem
    assert problem is not None
    assert "60 days" in problem.what
    assert "Shorten the season" in (problem.todo or "")


def test_gaps_widen_the_limits_of_a_fold_as_those_of_the_projection() -> None:
    values = np.asarray(wave(100))
    known = np.ones(100, dtype=bool)
    known[::4] = False
    history = History(values, known, 7)

    def narrow(part: History, far: int) -> Projected:
        return for_gaps(Projected("n", np.full(far, 100.0), normal_halves(np.full(far, 1.0), [80])), part)

    plain = Projected("n", np.full(5, 100.0), normal_halves(np.full(5, 1.0), [80]))
    for one in fold_back(history, 5, lambda parts: [narrow(part, far) for part, far in parts]):
        points = one.said.halves[0].above[0] / plain.halves[0].above[0]
        assert points == pytest.approx(np.sqrt(4 / 3), rel=0.03)


def test_few_points_say_which_step_would_be_seen() -> None:
    rng = np.random.default_rng(3)
    quiet = run_csv(
        b"year,riders\n" + b"".join(f"{2000 + n},{100 + rng.normal(0, 6):.1f}\n".encode() for n in range(16)),
        Shifts(shortest=4, season=None),
    )
    (said,) = quiet.reports[-1].outcome.warnings
    assert "among 16 years only a step of about" in said
    fallen = [100.0 + rng.normal(0, 3) for _ in range(8)] + [55.0 + rng.normal(0, 3) for _ in range(8)]
    text = "year,riders\n" + "".join(f"{2000 + n},{v:.1f}\n" for n, v in enumerate(fallen))
    found = run_csv(text.encode(), Shifts.suggest(run_csv(text.encode()).state))
    ((_, when, *_),) = found.reports[-1].outcome.evidence[0].rows
    assert str(when) == "2008"


def test_first_offers_never_speak_of_a_projection_or_of_an_id() -> None:
    result = run_values(wave(60), Projection(ahead=AheadPeriods(count=7), method=LastSeason()))
    for kind in (Marks, Between):
        begun = kind.suggest(result.state)
        again = run_values(wave(60), Projection(ahead=AheadPeriods(count=7), method=LastSeason()), begun)
        said = again.reports[-1].sentence
        assert again.reports[-1].problem is None or "no such reading" not in again.reports[-1].problem.what
        assert not {one.id for one in again.reports} & set(said.replace(",", " ").replace(".", " ").split())


def test_limits_of_no_coverage_are_refused_and_name_no_entry() -> None:
    for levels in ((0.0, 120.0), (100.0,), (0.5,)):
        with pytest.raises(ValidationError):
            Projection(levels=levels)


def two_scales(side: Side, reading: Side | None = None) -> dict[str, str]:
    rows = ["day,riders,income"]
    rows += [f"{FIRST + timedelta(n)},{100 + n % 7},{90_000 + 50 * n}" for n in range(40)]
    result = run_csv("\n".join(rows).encode(), Average(window=Window(length=7, need=4)), HeldLine(series=("income",)))
    lines = [LineDress(id="income", side=side)]
    if reading:
        lines.append(LineDress(id="t0/income/average", side=reading))
    figure = picture_figure(result, FigureSettings(shown=("riders", "income")), Picture(lines=tuple(lines)))
    return {one.id: one.scale for one in figure.shapes} | {one.name: one.scale for one in figure.series}


def test_readings_follow_the_scale_of_their_series() -> None:
    followed = two_scales(Side.RIGHT)
    assert followed["income"] == followed["t0/income/average"] == "right"
    assert followed["riders"] == followed["t0/riders/average"] == "values"
    assert two_scales(Side.RIGHT, Side.LEFT)["t0/income/average"] == "values"


def test_a_scale_that_cuts_says_how_many() -> None:
    result = run_values([*wave(40), 900.0, 1.0])
    cut = picture_figure(
        result, FigureSettings(), Picture(left=ValueScale(low=FromValue(value=50.0), high=HighValue(value=200.0)))
    )
    assert (cut.scales[0].below, cut.scales[0].above) == (1, 1)
    whole = picture_figure(result, FigureSettings(), Picture())
    assert (whole.scales[0].below, whole.scales[0].above) == (0, 0)


def test_numbers_and_articles_agree() -> None:
    assert [counted(1, "row"), counted(3, "row"), counted(0, "series", "series")] == ["1 row", "3 rows", "0 series"]
    names = ("exponential trend", "unit", "use", "8-day mean", "18 % limit", "hour", "linear trend")
    assert [with_article(one).split()[0] for one in names] == ["an", "a", "a", "an", "an", "an", "a"]
    result = run_csv(daily_csv([4, 5, None, 7]).replace(b"riders", b"level_cm"), Provisional(rule=LastFew(last=1)))
    said = " ".join(one.sentence for one in result.reports)
    assert "1 day " in said
    assert "1 days" not in said
    assert "Level_cm" not in said


def test_a_derived_measure_is_called_by_what_it_is() -> None:
    data = daily_csv([5, 9, 14, 20, 21, 30]).replace(b"riders", b"income to date")
    (line,) = run_csv(data, Derive(what=PerPeriod())).state.lines
    assert isinstance(line, Line)
    assert line.name == "income to date"
    assert "to date" not in line.drawn_name


def test_dates_in_sentences_are_spoken() -> None:
    result = run_values(wave(30), HeldLine())
    assert "2026-01" not in " ".join(one.sentence for one in result.reports)
    assert date(2026, 1, 1) == FIRST
