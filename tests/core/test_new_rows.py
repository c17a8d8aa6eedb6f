"""New rows against direct comparisons of made-up tables."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.help import daily_csv, run_csv, run_values
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.calendar.coarser import Coarser, Partly
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.ledger.run import Result, run
from zembra.core.many.seriesrow import series_frame
from zembra.core.newrows.changes import Comparison, Kind
from zembra.core.newrows.issued import Issued, actuals_for, by_ahead, scored, widening_so_far
from zembra.core.newrows.merging import together
from zembra.core.newrows.takingwords import InBoth, NoLonger, NowBlank, Taken, TakingHow
from zembra.core.watching.find import Looked, watched
from zembra.core.watching.watchwords import RevisionLarger, RowsLate

DAYS = [date(2026, 3, 1) + timedelta(days=n) for n in range(12)]
ROUTES = ("North Head", "Outer Isles")
Cells = dict[tuple[str, date], str]

# a table is what came in for some routes and days: a number, a blank, a text
cells = st.sampled_from(["12", "15.5", "0", "7", "", "closed"])
tables = st.dictionaries(st.tuples(st.sampled_from(ROUTES), st.sampled_from(DAYS)), cells, min_size=6, max_size=20)
words = st.builds(
    TakingHow,
    taken=st.sampled_from(list(Taken)),
    both=st.sampled_from(list(InBoth)),
    blank=st.sampled_from(list(NowBlank)),
    gone=st.sampled_from(list(NoLonger)),
)


def number(text: str | None) -> float | None:
    return float(text) if text not in (None, "", "closed") else None


def long_csv(table: Cells, *, reverse: bool = False) -> bytes:
    """reverse: the columns and rows in another order."""
    rows = [f"{day},{route},{text}" for (route, day), text in table.items()]
    head = "day,route,riders"
    if reverse:
        head = "riders,route,day"
        rows = [",".join(reversed(row.split(","))) for row in reversed(rows)]
    return "\n".join([head, *rows]).encode()


# read as a table is read in which there can be no doubt
SAMPLE = bring_in(long_csv({(route, day): "12" for route in ROUTES for day in DAYS}))
HOW = SAMPLE.how


def mixed(old: Cells, new: Cells, how: TakingHow) -> Cells:
    """What is to stand in the table of both, by the words alone."""
    found = {} if how.taken is Taken.WHOLE and how.gone is NoLonger.GO else dict(old)
    for key, text in new.items():
        was, now = number(old.get(key)), number(text)
        stays = was is not None and (
            (now is None and how.blank is NowBlank.STAY)
            or (now is not None and how.both is InBoth.OLD)
            or (now is not None and how.both is InBoth.LARGER and was > now)
        )
        found[key] = old[key] if stays else text
    return found


def told(brought: BroughtIn) -> dict[tuple[str, date], float | None]:
    frame = brought.observations.frames["riders"]
    names = [brought.observations.series[code] for code in frame["series"]]
    return {(name, when.date()): value for name, when, value in zip(names, frame["when"], frame["value"], strict=True)}


def by_one_ledger(brought: BroughtIn) -> Result:
    return run(brought.observations, first_ledger(SAMPLE.observations, SAMPLE.how, date(2026, 4, 1)), date(2026, 4, 1))


def of(brought: BroughtIn) -> Result:
    return run(
        brought.observations, first_ledger(brought.observations, brought.how, date(2026, 4, 1)), date(2026, 4, 1)
    )


def has_numbers(table: Cells) -> bool:
    return sum(number(text) is not None for text in table.values()) >= 3


@given(tables.filter(has_numbers), tables.filter(has_numbers), words, st.booleans())
@settings(max_examples=50, deadline=None)
def test_rows_of_both_are_those_that_the_sentence_names(old: Cells, new: Cells, how: TakingHow, reverse: bool) -> None:
    before = bring_in(long_csv(old), HOW)
    came = bring_in(long_csv(new, reverse=reverse), HOW)
    made = together(before, came, how)
    expected = {key: number(text) for key, text in mixed(old, new, how).items()}
    assert told(bring_in(made.data, made.how)) == expected


@given(tables.filter(has_numbers), tables.filter(has_numbers), st.sampled_from(list(Taken)))
@settings(max_examples=50, deadline=None)
def test_what_changed_is_what_a_direct_comparison_finds(old: Cells, new: Cells, taken: Taken) -> None:
    before = by_one_ledger(bring_in(long_csv(old), HOW))
    came = by_one_ledger(bring_in(long_csv(new), HOW))
    changes = Comparison(before.base, came.base).changes(before.state, TakingHow(taken=taken))
    grain = before.base.grain
    found = {
        (row.kind, row.series, date.fromisoformat(grain.label(row.period))): (row.was, row.now) for row in changes.rows
    }
    expected = {}
    for route in ROUTES:
        for day in DAYS:
            was, now = number(old.get((route, day))), number(new.get((route, day)))
            kind = None
            if now is not None:
                kind = Kind.NEW if was is None else Kind.REVISED if was != now else None
            elif was is not None:
                kind = Kind.BLANK if (route, day) in new else Kind.GONE if taken is Taken.WHOLE else None
            if kind:
                expected[kind, route, day] = (was, now)
    assert found == expected


def test_rows_written_in_another_way_are_mixed_by_what_they_say() -> None:
    before = bring_in(b"day;riders\n01.03.2026;1.200,5\n02.03.2026;800,0\n03.03.2026;closed\n04.03.2026;900,0")
    came = bring_in(b"day,riders\n2026-03-04,950.5\n2026-03-05,1020.25\n2026-03-06,")
    made = together(before, came, TakingHow(taken=Taken.MORE))
    read = bring_in(made.data, made.how)
    values = read.observations.frames["riders"].sort("when")
    assert values["value"].to_list() == [1200.5, 800.0, None, 950.5, 1020.25, None]
    assert values["text"].to_list()[2] == "closed"
    stays = together(before, came, TakingHow(taken=Taken.MORE, both=InBoth.OLD))
    values = bring_in(stays.data, stays.how).observations.frames["riders"].sort("when")
    assert values["value"].to_list() == [1200.5, 800.0, None, 900.0, 1020.25, None]


def test_several_rows_of_a_period_are_chosen_together() -> None:
    before = bring_in(b"day,route,riders\n2026-03-01,a,10\n2026-03-01,a,20\n2026-03-02,a,5\n2026-03-03,a,7")
    came = bring_in(b"day,route,riders\n2026-03-01,a,12\n2026-03-02,a,4\n2026-03-02,a,4", before.how)
    made = together(before, came, TakingHow(taken=Taken.MORE, both=InBoth.LARGER))
    frame = bring_in(made.data, made.how).observations.frames["riders"]
    sums = frame.select("when", "value").group_by("when").sum().sort("when")["value"].to_list()
    assert sums == [30.0, 8.0, 7.0]


def test_half_a_month_that_came_later_does_not_replace_the_other_half() -> None:
    before = bring_in(b"day,riders\n" + b"\n".join(b"2026-03-%02d,10" % day for day in range(1, 16)))
    came = bring_in(b"day,riders\n" + b"\n".join(b"2026-03-%02d,20" % day for day in range(16, 32)), before.how)
    made = together(before, came, Comparison(of(before).base, of(came).base).guessed_how)
    frame = bring_in(made.data, made.how).observations.frames["riders"]
    assert (frame.height, frame["value"].sum()) == (31, 15 * 10 + 16 * 20)


def test_revisions_of_the_tail_are_foreseen_and_its_length_is_told() -> None:
    values = np.arange(100.0, 130.0)
    before = run_csv(
        b"day,riders\n" + b"\n".join(b"2026-03-%02d,%d" % (n + 1, value) for n, value in enumerate(values))
    )
    late = values.copy()
    late[[26, 27, 29]] += 50
    late[3] += 1
    came = run_csv(b"day,riders\n" + b"\n".join(b"2026-03-%02d,%d" % (n + 1, value) for n, value in enumerate(late)))
    changes = Comparison(before.base, came.base).changes(before.state, TakingHow())
    assert [row.back for row in changes.of(Kind.REVISED)] == [27, 4, 3, 1]
    assert (changes.foreseen, changes.tail) == (0, 27)


def test_periods_across_the_columns_are_not_mixed() -> None:
    wide = bring_in(b"route,2026-01,2026-02,2026-03\na,1,2,3\nb,4,5,6")
    with pytest.raises(Refusal, match="run across the columns"):
        together(wide, wide, TakingHow(taken=Taken.MORE))


def test_over_many_months_as_many_numbers_lie_inside_as_the_limits_say() -> None:
    """Projections of a walk by one who knows it, each scored on the month that follows."""
    rng = np.random.default_rng(11)
    days, months = 28, 200
    walk = rng.normal(0, 1, days * (months + 1)).cumsum() + 1000
    first = np.datetime64("2010-01-01")
    result = run_csv(
        "\n".join(["day,riders", *(f"{first + n},{value!r}" for n, value in enumerate(walk.tolist()))]).encode()
    )
    spread = np.sqrt(np.arange(1, days + 1))
    told = []
    for month in range(months):
        last = walk[(month + 1) * days - 1]
        periods = [str(first + (month + 1) * days + n) for n in range(days)]
        parts = [
            {
                "entry": "p", "series": "riders", "period": period, "ahead": n + 1, "mean": last, "level": level,
                "lower": last - z * spread[n], "upper": last + z * spread[n], "last_season": last, "scale": 1.0,
            }
            for level, z in ((80.0, 1.2816), (95.0, 1.96)) for n, period in enumerate(periods)
        ]  # fmt: skip
        told.append(Issued(month, "", "", pl.DataFrame(parts)))
    (score,) = scored(told, result.state.lines, result.state.grain)
    assert score.points == days * months
    for level, many, chance in score.inside:
        assert 100 * many / score.points == pytest.approx(level, abs=4)
        assert chance > 0.001
    assert score.error == score.naive
    narrow = [Issued(0, "", "", issued.frame.with_columns(lower="mean", upper="mean")) for issued in told]
    assert scored(narrow, result.state.lines, result.state.grain)[0].inside[0][2] < 1e-6


@given(tables.filter(has_numbers), st.lists(st.tuples(st.floats(-50, 50), st.floats(0, 20)), min_size=4, max_size=12))
@settings(max_examples=50, deadline=None)
def test_scores_are_those_of_a_direct_computation(table: Cells, said: list[tuple[float, float]]) -> None:
    result = by_one_ledger(bring_in(long_csv(table), HOW))
    route = ROUTES[0]
    rows = [
        {
            "entry": "p", "series": route, "period": day.isoformat(), "ahead": n + 1, "mean": mean, "level": 80.0,
            "lower": mean - half, "upper": mean + half, "last_season": 10.0, "scale": 4.0,
        }
        for n, (day, (mean, half)) in enumerate(zip(DAYS, said, strict=False))
    ]  # fmt: skip
    (score,) = scored([Issued(1, "", "", pl.DataFrame(rows))], result.state.lines, result.state.grain)
    known = [
        (value, row) for day, row in zip(DAYS, rows, strict=False)
        if (value := number(table.get((route, day)))) is not None
    ]  # fmt: skip
    assert score.points == len(known)
    if known:
        assert score.error == pytest.approx(np.mean([abs(value - row["mean"]) / 4 for value, row in known]))
        assert score.bias == pytest.approx(np.mean([value - row["mean"] for value, row in known]))
        assert score.inside[0][1] == sum(row["lower"] <= value <= row["upper"] for value, row in known)


@pytest.mark.parametrize(("narrow", "least", "most"), [(1.0, 1.0, 1.12), (0.6, 1.3, 1.7), (0.4, 1.8, 2.5)])
def test_limits_as_they_have_held_so_far_hold_more_often(narrow: float, least: float, most: float) -> None:
    """Noise with limits that are too narrow: the factor by twelve months, against the months that follow."""
    rng = np.random.default_rng(5)
    days, months, level = 28, 12, 80.0
    first = np.datetime64("2020-01-01")
    factors, before, after = [], [], []
    for _ in range(30):
        noise = rng.normal(0, 5, days * (months + 1)) + 100
        rows = [f"{first + n},{value!r}" for n, value in enumerate(noise.tolist())]
        result = run_csv("\n".join(["day,riders", *rows]).encode())
        half = 1.2816 * 5 * narrow
        told = [
            Issued(month, "", "", pl.DataFrame({
                "entry": "p", "series": "riders", "period": [str(first + month * days + n) for n in range(days)],
                "ahead": range(1, days + 1), "mean": 100.0, "level": level, "lower": 100 - half, "upper": 100 + half,
                "last_season": 100.0, "scale": 5.0,
            }))
            for month in range(months)
        ]  # fmt: skip
        factor = widening_so_far(told, result.state.lines, result.state.grain)["p"]
        factors.append(factor)
        away = np.abs(noise[months * days :] - 100)
        before.append(np.mean(away <= half))
        after.append(np.mean(away <= half * factor))
        reaches = by_ahead(told, result.state.lines, result.state.grain)
        assert [(reach.first, reach.last) for reach in reaches] == [(1, 9), (10, 19), (20, 28)]
        inside = np.abs(noise[: months * days] - 100).reshape(months, days) <= half
        assert [reach.inside[0][1] for reach in reaches] == [
            int(inside[:, a:b].sum()) for a, b in ((0, 9), (9, 19), (19, 28))
        ]
    assert least <= float(np.mean(factors)) <= most
    assert abs(np.mean(after) - 0.8) <= abs(np.mean(before) - 0.8) + 0.02
    assert np.mean(after) > 0.7


def test_an_estimate_is_not_what_happened() -> None:
    result = run_values([1, 2, None, 4], Blanks())
    (line,) = result.state.lines
    assert line.counted[2] == 3
    periods = result.state.grain.labels(line.periods)
    frame = pl.DataFrame({"series": [line.name] * 4, "period": periods})
    assert actuals_for([line], result.state.grain, frame).tolist() == pytest.approx([1, 2, np.nan, 4], nan_ok=True)


def test_the_grain_that_a_ledger_puts_rows_on_is_not_that_of_the_rows() -> None:
    """Days put into months: what is told of rows is told by the day."""
    monthly = (Coarser(partly=Partly.PROVISIONAL),)
    was = run_csv(daily_csv(range(75), date(2026, 1, 1)), *monthly)
    now = run_csv(daily_csv([*range(40), 140, *range(41, 74), 174], date(2026, 1, 1)), *monthly)
    changes = Comparison(was.base, now.base).changes(was.state, TakingHow())
    told = [(changes.grain.label(row.period), row.provisional) for row in changes.of(Kind.REVISED)]
    assert told == [("2026-02-10", False), ("2026-03-16", True)]
    looked = Looked(was, (), changes, date(2026, 3, 25))
    found = watched([RevisionLarger(percent=1), RowsLate(days=2)], looked).found
    assert [(one.kind, one.period) for one in found] == [("revision", "2026-02-10"), ("late", "2026-03-16")]
    (row,) = series_frame(was, ["riders"]).select("first", "last", "newest_day").rows()
    assert row == (date(2026, 1, 1), date(2026, 3, 16), date(2026, 3, 1))


@given(
    st.sampled_from(list(CalendarUnit)),
    st.sampled_from(list(CalendarUnit)),
    st.dates(date(1990, 1, 1), date(2060, 1, 1)),
)
def test_periods_that_another_grain_touches_are_those_of_its_days(
    own: CalendarUnit, other: CalendarUnit, day: date
) -> None:
    grain, rows = Grain(Unit(own.value)), Grain(Unit(other.value))
    period, end = rows.span(day)[0], rows.days(np.array([rows.span(day)[0] + 1]))[0]
    hours = np.arange(rows.days(np.array([period]))[0], end, np.timedelta64(1, "h"))
    first, last = grain.touched_by(rows, np.array([period]))
    assert np.unique(grain.on_clock(hours)).tolist() == list(range(first[0], last[0] + 1))
