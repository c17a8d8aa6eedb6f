"""What came is held against what is there before anything is taken: each difference that may be a mistake is asked about."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembra.core.asking.question import Question, settled
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.run import Result, run
from zembra.core.newrows.changes import Comparison, RevisedPeriods, _places
from zembra.core.newrows.doubts import MUCH_GONE, rows_questions
from zembra.core.newrows.renamed import in_terms_of, other_names
from zembra.core.newrows.sides import side_of
from zembra.core.newrows.takingwords import NoLonger, TakingHow

AS_OF = date(2026, 2, 1)
MONTHS = [f"{2024 + n // 12}-{n % 12 + 1:02d}" for n in range(25)]
ROUTES = ("North Head", "Outer Isles", "Harbour Loop")
RNG = np.random.default_rng(7)
VALUES = {route: RNG.uniform(100, 900, 25).round(1) for route in ROUTES}


def wide(values: dict[str, np.ndarray], months: list[str], first: int = 0) -> bytes:
    rows = [
        f"{month};{';'.join(f'{column[first + n]:.4f}' for column in values.values())}"
        for n, month in enumerate(months)
    ]
    return "\n".join([f"month;{';'.join(values)}", *rows]).encode()


OLD = wide(VALUES, MONTHS[:24])


def carried(brought: BroughtIn, begun: BroughtIn) -> Result:
    return run(brought.observations, first_ledger(begun.observations, begun.how, AS_OF), AS_OF)


def asked(
    new: bytes, old: bytes = OLD, how: TakingHow | None = None, *, read: HowRead | None = None
) -> tuple[tuple[Question, ...], BroughtIn]:
    """The questions about new rows, and these as read."""
    before = bring_in(old)
    as_before = b"month" in new.splitlines()[0] and new.splitlines()[0] == old.splitlines()[0]
    came = bring_in(new, read or (before.how if as_before else None))
    names = other_names(came, before)
    renamed = in_terms_of(came, names)
    counted = came if renamed is None else bring_in(renamed.data, renamed.how)
    was, now = carried(before, before), carried(counted, before if not renamed else counted)
    compared = Comparison(was.base, now.base) if was.base.grain == now.base.grain else None
    words = how or (compared.guessed_how if compared else TakingHow())
    changes: RevisedPeriods | None = compared.changes(was.state, words) if compared else None
    return rows_questions(side_of(before, was), side_of(counted, now), came, changes, words, names, said=False), came


def keys(new: bytes, old: bytes = OLD) -> list[str]:
    return [question.key.removeprefix("rows:").partition(":")[0] for question in asked(new, old)[0]]


def times(factor: float, routes: tuple[str, ...] = ROUTES) -> dict[str, np.ndarray]:
    return {route: VALUES[route] * (factor if route in routes else 1) for route in ROUTES}


def test_a_month_more_and_a_few_revisions_are_not_asked_about() -> None:
    revised = {**VALUES, "North Head": np.where(np.arange(25) > 20, VALUES["North Head"] + 1, VALUES["North Head"])}
    assert keys(wide(revised, MONTHS)) == []
    assert keys(wide(VALUES, MONTHS[24:], 24)) == []


@pytest.mark.parametrize("factor", [1000, 0.001, 0.01, -1, 1.1])
def test_numbers_that_are_all_so_many_times_as_large(factor: float) -> None:
    questions, came = asked(wide(times(factor), MONTHS))
    assert questions[0].key.startswith("rows:scale:")
    if factor == 1000:
        # the first answer brings them back
        again = bring_in(wide(times(factor), MONTHS), settled(questions[0], came.how, questions[0].answers[0]))
        frame = again.observations.frames[again.observations.measures[0]]
        assert frame["value"][0] == pytest.approx(VALUES["North Head"][0])


def test_one_series_alone_and_new_months_alone() -> None:
    assert keys(wide(times(1000, ("Outer Isles",)), MONTHS)) == ["scale"]
    assert keys(wide(times(1000, ("Outer Isles",)), MONTHS[24:], 24)) == ["size"]
    assert keys(wide(times(-1), MONTHS[24:], 24)) == ["size"]


def test_series_that_changed_places_and_columns_in_another_order() -> None:
    swapped = {**VALUES, "North Head": VALUES["Outer Isles"], "Outer Isles": VALUES["North Head"]}
    assert keys(wide(swapped, MONTHS)) == ["swapped"]
    other = dict(reversed(VALUES.items()))
    assert keys(wide(other, MONTHS)) == []
    assert keys(wide(other, MONTHS[24:], 24)) == ["order"]


def test_a_column_under_another_name_is_the_one_with_its_numbers() -> None:
    renamed = {"Nord": VALUES["Outer Isles"], "South": VALUES["North Head"], "Harbour Loop": VALUES["Harbour Loop"]}
    questions, _ = asked(wide(renamed, MONTHS))
    assert "Nord is taken for Outer Isles and South is taken for North Head" in questions[0].title


def test_what_is_new_and_what_is_gone_is_named_with_its_count() -> None:
    def long(values: dict[str, np.ndarray]) -> bytes:
        rows = [
            f"{month};{route};{column[n]:.1f}"
            for n, month in enumerate(MONTHS[:24])
            for route, column in values.items()
        ]
        return "\n".join(["month;route;riders", *rows]).encode()

    old = long(VALUES)
    called = {route.upper() if route == "North Head" else route: column for route, column in VALUES.items()}
    questions, came = asked(long(called), old)
    assert questions[0].title == "NORTH HEAD is new; North Head is gone, with 24 numbers."
    again = bring_in(long(called), settled(questions[0], came.how, questions[0].answers[0]))
    assert set(again.observations.series) == set(ROUTES)
    fewer = {route: column for route, column in VALUES.items() if route != "North Head"}
    assert "North Head is gone, with 24 numbers" in asked(long(fewer), old)[0][0].title


def test_moved_blank_doubled_and_coarser_rows() -> None:
    days = np.arange(np.datetime64("2025-01-01"), np.datetime64("2025-04-01"))
    load = np.random.default_rng(3).uniform(1, 9, days.size).round(3)

    def daily(at: np.ndarray, values: np.ndarray) -> bytes:
        return "\n".join(["day;load", *(f"{d};{v}" for d, v in zip(at, values, strict=True))]).encode()

    old = daily(days, load)
    assert "moved" in keys(daily(days + 1, load), old)
    assert "doubled" in keys(daily(np.repeat(days[-3:], 2), np.repeat(load[-3:], 2)), old)
    assert "grain" in keys(daily(days[::7], load[::7]), old)
    blank = wide(VALUES, MONTHS).decode().splitlines()
    blank[5:12] = [f"{line.split(';')[0]};;;" for line in blank[5:12]]
    assert "blank" in keys("\n".join(blank).encode())


def test_a_table_of_the_newest_months_takes_nothing_away() -> None:
    rolling = wide({route: column[7:] for route, column in VALUES.items()}, MONTHS[7:])
    before, came = bring_in(OLD), bring_in(rolling)
    how = Comparison(carried(before, before).base, carried(came, before).base).guessed_how
    assert how.gone is NoLonger.STAY
    assert keys(rolling) == []


def test_other_units_beside_the_numbers() -> None:
    euro, dollar = (
        OLD.replace(b";", b";%s" % sign.encode()).replace(b"month;%s" % sign.encode(), b"month;") for sign in ("€", "$")
    )
    head = b"month;" + b";".join(route.encode() for route in ROUTES)
    euro, dollar = (b"\n".join([head, *text.splitlines()[1:]]) for text in (euro, dollar))
    assert keys(dollar, euro) == ["units"]
    assert keys(OLD, euro) == ["units"]


@pytest.mark.parametrize(
    ("factor", "said"),
    [
        (1000, "1 000 times what they were"),
        (0.001, "1/1 000 of what they were"),
        (-1, "the opposite of what they were"),
        (1.1, "1.1 times what they were"),
        (1.609344, "1.609 times what they were"),
        (0.25, "1/4 of what they were"),
    ],
)
def test_a_factor_is_told_as_people_say_it(factor: float, said: str) -> None:
    question = asked(wide(times(factor), MONTHS))[0][0]
    assert question.title.replace("\u202f", " ").replace("\u00a0", " ") == f"The numbers that were there are {said}."
    assert [answer.label for answer in question.answers][-1] == "take them as they are"
    assert (len(question.answers) > 1) == (factor > 0)


@pytest.mark.parametrize(
    ("factor", "said", "back"),
    [
        (1000, "far larger than any before", "divide them by 1 000"),
        (1e6, "far larger than any before", "divide them by 1 000 000"),
        (0.01, "far smaller than any before", "multiply them by 100"),
        (1e-6, "far smaller than any before", "multiply them by 1 000 000"),
        (1e4, "far larger than any before", None),
        (1e7, "far larger than any before", None),
        (-1, "on the other side of zero", None),
    ],
)
def test_new_numbers_of_another_size(factor: float, said: str, back: str | None) -> None:
    even = {route: 100.0 * (n + 1) + np.arange(25) for n, route in enumerate(ROUTES)}
    new = {route: column * factor for route, column in even.items()}
    question = asked(wide(new, MONTHS[24:], 24), wide(even, MONTHS[:24]))[0][0]
    assert question.title == f"The new numbers of North Head, Outer Isles and Harbour Loop are {said}."
    offered = [answer.label for answer in question.answers[:-1]]
    assert [label.replace("\u202f", " ").replace("\u00a0", " ") for label in offered] == (
        [f"in another unit: {back}"] if back else []
    )


def test_what_came_twice_is_told_with_its_first_period() -> None:
    rows = ["day,load", *(f"2025-01-{n:02d},{n}" for n in range(1, 21))]
    old, new = "\n".join(rows), "\n".join([*rows[:10], rows[9], rows[9], rows[10], rows[10]])
    question = next(one for one in asked(new.encode(), old.encode())[0] if "doubled" in one.key)
    assert question.title == "2 days have more than one row, which none had so far."
    assert question.text == "The first is 9 Jan 2025 of load: 27 from 3 rows together. Did rows come twice?"
    once = "\n".join([*rows, rows[-1]])
    question = next(one for one in asked(once.encode(), old.encode())[0] if "doubled" in one.key)
    assert question.title == "1 day has more than one row, which none had so far."


def test_columns_that_are_new_are_offered_in_the_singular_and_in_the_plural() -> None:
    one = wide({**VALUES, "Kittiwake Bay": VALUES["North Head"] / 3}, MONTHS)
    question = next(found for found in asked(one, read=bring_in(OLD).how)[0] if "columns" in found.key)
    assert (question.title, question.text) == (
        "Kittiwake Bay is a new column of numbers.",
        "Is it a series of the study?",
    )
    assert [answer.label for answer in question.answers] == ["take it in", "leave it out"]
    two = wide({**VALUES, "Kittiwake Bay": VALUES["North Head"] / 3, "Bus": VALUES["North Head"] / 7}, MONTHS)
    question = next(found for found in asked(two, read=bring_in(OLD).how)[0] if "columns" in found.key)
    assert question.title == "Kittiwake Bay and Bus are new columns of numbers."
    assert question.text == "Are they series of the study?"
    assert [answer.label for answer in question.answers] == ["take them in", "leave them out"]


@pytest.mark.parametrize("lacking", [1, 2, 8, 9])
def test_a_table_that_lacks_much_is_asked_about_and_one_that_lacks_little_is_not(lacking: int) -> None:
    """A third and more is much; a single number never is."""
    rows = wide(VALUES, MONTHS).decode().splitlines()
    short = "\n".join([rows[0], rows[1], *rows[2 + lacking :]])
    question = next((found for found in asked(short.encode())[0] if "gone" in found.key), None)
    assert (question is not None) == (lacking > MUCH_GONE * 24)
    if question:
        assert question.title == (
            f"{3 * lacking} numbers of North Head, Outer Isles and Harbour Loop that were there are not in it."
        )


def test_numbers_of_which_too_few_agree_did_not_move() -> None:
    days = np.arange(np.datetime64("2025-01-01"), np.datetime64("2025-04-01"))
    rng = np.random.default_rng(4)
    load = rng.uniform(1, 9, days.size).round(3)

    def daily(at: np.ndarray, values: np.ndarray) -> bytes:
        return "\n".join(["day;load", *(f"{d};{v}" for d, v in zip(at, values, strict=True))]).encode()

    for share in (0.2, 0.6, 1.0):
        other = np.where(np.arange(days.size) < share * days.size, load, rng.uniform(1, 9, days.size).round(3))
        assert ("moved" in keys(daily(days + 2, other), daily(days, load))) == (share == 1.0)
    title = next(one.title for one in asked(daily(days - 2, load), daily(days, load))[0] if "moved" in one.key)
    assert title == "The numbers that were there stand 2 days earlier now."


@given(st.lists(st.integers(0, 5000), max_size=60, unique=True), st.lists(st.integers(0, 5000), max_size=60))
def test_periods_are_found_whether_they_lie_close_or_far_apart(among: list[int], wanted: list[int]) -> None:
    for spread in (1, 1_000_000):
        own = np.array(sorted(among), dtype=np.int64) * spread
        asked_for = np.array(wanted, dtype=np.int64) * spread
        known = {period: place for place, period in enumerate(own.tolist())}
        found = _places(own, asked_for, 5001 * spread)
        assert found.tolist() == [known.get(period, -1) for period in asked_for.tolist()]
