"""Whatever was previewed, edited, moved or undone before: a run with a memo equals a run without one."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.test_every_entry import phrases
from tests.help import AS_OF, run_values
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.methods import Drift
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LimitsWord, NoSeason
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.between import Between
from zembra.core.entries.readings.clauses.bands import RoundReading
from zembra.core.entries.readings.clauses.edges import AgainstReading
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.events import Event, Events
from zembra.core.entries.readings.marks import Marks
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.lineentry import LineResult
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, Record, record
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.run import Result, run
from zembra.core.slots import slots

_rng = np.random.default_rng(12)
_values = np.concatenate([_rng.normal(100, 3, 40), _rng.normal(140, 3, 40)]).round(2)
_cells = ["" if n % 11 == 5 else ("400" if n == 30 else str(value)) for n, value in enumerate(_values)]
BROUGHT = bring_in(
    b"day,boats,riders\n"
    + b"".join(f"{day},{n % 7 + 3},{cell}\n".encode() for n, (day, cell) in enumerate(zip(np.arange("2026-01-01", "2026-03-22", dtype="datetime64[D]"), _cells, strict=True)))
)  # fmt: skip
BEGUN = first_ledger(BROUGHT.observations, BROUGHT.how, AS_OF)
START = run(BROUGHT.observations, BEGUN, AS_OF).state
OWN = {
    "projection": Projection(ahead=AheadPeriods(count=9), season=NoSeason(), method=Drift(), limits=LimitsWord.OWN),
    "events": Events(events=(Event(on=START.as_of.replace(year=2026, month=2, day=3), name="storm"),)),
}
KINDS = [kind for kind in kinds().values() if not kind.once]
# a projection by another method, or shifts with other words, would only be slow in another way
FEW_WORDS = (Projection, Shifts)


def versions(kind: type[Entry]) -> Iterator[Entry]:
    """An entry of a kind with one word after the other changed."""
    entry = OWN.get(kind.kind) or kind.suggest(START)
    yield entry
    for name, info in kind.model_fields.items():
        value = getattr(entry, name)
        if info.annotation is int and not isinstance(value, bool):
            yield entry.model_copy(update={name: value + 1})
    if kind is Events:
        yield Events(events=(Event(on=START.as_of.replace(month=3, day=3), name="calm"),))
    if kind not in FEW_WORDS:
        yield from (entry.model_copy(update=words) for words in phrases(kind) if words)


VERSIONS = {kind.kind: [entry.model_dump(mode="json") for entry in versions(kind)] for kind in KINDS}
# what names an entry before it is tried where that one is there, and where it is not
ROUND = record(Band(round=RoundReading(reading="t0")), "b")
ACTS = st.lists(
    st.tuples(st.sampled_from(["preview", "edit", "toggle", "swap", "undo"]), st.integers(0, 99), st.integers(0, 99)),
    min_size=1,
    max_size=7,
)


def carried_out(entries: list[Record], memo: Memo | None, nudged: str | None = None) -> Result:
    ledger = Ledger(intake=BROUGHT.how, entries=(*BEGUN.entries, *entries))
    return run(BROUGHT.observations, ledger, AS_OF, memo=memo, nudged=nudged)


def told(result: Result) -> list[object]:
    """Every number and word of a run."""
    lines = [(line.name, line.value.tobytes(), line.condition.tobytes(), line.afresh) for line in result.state.lines]
    drawn = [(one.id, [array.tobytes() for array in one.arrays()]) for one in result.state.shapes]
    reports = [(r.id, r.sentence, r.outcome.touched, str(r.problem), r.outcome.evidence) for r in result.reports]
    return [lines, drawn, repr(result.state.events), repr(reports)]


def acted(entries: list[Record], act: str, which: int, how: int) -> list[Record]:
    at = which % len(entries)
    item = entries[at]
    if act == "toggle":
        return [*entries[:at], item.model_copy(update={"on": not item.on}), *entries[at + 1 :]]
    if act == "swap":
        other = (at + 1) % len(entries)
        swapped = list(entries)
        swapped[at], swapped[other] = swapped[other], swapped[at]
        return swapped
    words = VERSIONS[item.kind]
    return [*entries[:at], item.model_copy(update={"params": words[how % len(words)]}), *entries[at + 1 :]]


def ledger_of(chosen: list[str], rounded: bool) -> list[Record]:
    order = list(kinds())
    chosen = sorted(chosen, key=order.index)
    made = [Record(id=f"t{n}", kind=kind, params=VERSIONS[kind][0]) for n, kind in enumerate(chosen)]
    return [*made, ROUND] if rounded else made


CHOSEN = st.builds(ledger_of, st.lists(st.sampled_from(sorted(VERSIONS)), min_size=2, max_size=5), st.booleans())


@example(ledger_of(["average", "events", "together"], False), [("edit", 0, 1)])
@example(ledger_of(["average", "events", "together"], True), [("swap", 0, 0), ("edit", 1, 1), ("toggle", 0, 0)])
@settings(max_examples=60, deadline=None)
@given(CHOSEN, ACTS)
def test_a_run_with_a_memo_is_a_run_without_one(entries: list[Record], acts: list[tuple[str, int, int]]) -> None:
    memo = Memo(most_bytes=400_000)
    before = [entries]
    for act, which, how in acts:
        if act == "undo":
            entries = before.pop() if len(before) > 1 else entries
        else:
            changed = acted(entries, act if act != "preview" else "edit", which, how)
            if act in ("preview", "edit"):
                # a word is nudged, and then kept or let go
                carried_out(changed, memo, changed[which % len(changed)].id)
            if act == "preview":
                continue
            before.append(entries)
            entries = changed
        assert told(carried_out(entries, memo)) == told(carried_out(entries, None))


def test_every_kind_of_entry_is_drawn_from() -> None:
    assert set(VERSIONS) == {kind.kind for kind in kinds().values() if not kind.once}
    assert all(len(words) >= 1 for words in VERSIONS.values())
    assert sum(len(words) for words in VERSIONS.values()) > 100


@dataclass(frozen=True, slots=True)
class Told(SeriesResult):
    said: tuple[object, ...]


def test_a_result_is_weighed_with_all_it_holds() -> None:
    memo, facts = Memo(), tuple({"level": n, "said": f"{n:0100}"} for n in range(1_000))
    memo.put("a", LineResult(result=Told("riders", facts)))
    # independently: a tuple, and per entry a dict, its text and at most a number
    least = sum(sys.getsizeof(one) + sys.getsizeof(one["said"]) for one in facts)
    assert least < memo.weight < 1.3 * least
    # those that are not looked into weigh as those that were
    memo.put("b", LineResult(result=Told("riders", facts[:10])))
    assert memo.weight > 1.9 * least


def test_an_array_is_weighed_once_whether_a_result_or_a_line_holds_it() -> None:
    values = np.zeros(100_000)
    line = run_values([1.0, 2.0]).state.lines[0]
    for result, times in (
        (LineResult(result=Told("riders", (values, values))), 1),
        (LineResult(replace(line, value=values), result=Told("riders", (values,))), 1),
        (LineResult(result=Told("riders", (values, values + 1))), 2),
    ):
        memo = Memo()
        memo.put("a", result, line.arrays())
        assert times * values.nbytes < memo.weight < times * values.nbytes + 10_000
    memo = Memo()
    memo.put("a", LineResult(result=Told("riders", (values,))), [values])
    assert memo.weight < 10_000


REFERRING = {
    "band": Band(round=RoundReading(reading="t0")),
    "between": Between(one=AgainstReading(reading="t0")),
    "mark": Marks(against=AgainstReading(reading="t0")),
}


def test_every_kind_that_names_a_reading_is_among_those_that_refer() -> None:
    naming = {
        kind.kind
        for kind in KINDS
        for slot in slots(kind).values()
        if any(inner.options == "readings" for clause in slot.clauses for inner in slots(clause).values())
    }
    assert naming == set(REFERRING)


@pytest.mark.parametrize("kind", REFERRING)
def test_a_reading_that_changed_changes_what_refers_to_it(kind: str) -> None:
    """The lines are the same for both: only the reading tells that the entry has to be carried out again."""

    def of(length: int, memo: Memo | None) -> list[object]:
        average = record(Average(window=Window(length=length, need=3)), "t0")
        return told(carried_out([average, record(REFERRING[kind], "r")], memo))

    memo = Memo()
    before = of(7, memo)
    after = of(13, memo)
    assert after == of(13, None)
    assert after != before
