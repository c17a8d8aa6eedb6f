"""What came is held against what is there before anything is taken: each difference that may be a mistake is asked about."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest

from zembra.core.asking.question import Question, settled
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.ledger.run import Result, run
from zembra.core.newrows.changes import Comparison, RevisedPeriods
from zembra.core.newrows.doubts import rows_questions
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


def asked(new: bytes, old: bytes = OLD, how: TakingHow | None = None) -> tuple[tuple[Question, ...], BroughtIn]:
    """The questions about new rows, and these as read."""
    before = bring_in(old)
    came = bring_in(
        new, before.how if b"month" in new.splitlines()[0] and new.splitlines()[0] == old.splitlines()[0] else None
    )
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
