"""Whatever was previewed, edited, moved or undone before: a run with a memo equals a run without one."""

from __future__ import annotations

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.help import AS_OF, daily_csv
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.clauses.blanks import FilledStraight
from zembra.core.ledger.clauses.derivations import Change
from zembra.core.ledger.clauses.newest import LastFew
from zembra.core.ledger.clauses.windows import Window
from zembra.core.ledger.entries.readings.average import Average
from zembra.core.ledger.entries.readings.band import Band
from zembra.core.ledger.entries.repairs.blanks import Blanks
from zembra.core.ledger.entries.repairs.derive import Derive
from zembra.core.ledger.entries.repairs.found_shifts import Shifts
from zembra.core.ledger.entries.repairs.outliers import Outliers
from zembra.core.ledger.entries.repairs.provisional import Provisional
from zembra.core.ledger.follow import Follow
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, Record, record
from zembra.core.ledger.run import Result, run
from zembra.core.ledger.start import first_ledger
from zembra.core.ledger.windowed import Tail

_rng = np.random.default_rng(12)
_values = np.concatenate([_rng.normal(100, 3, 70), _rng.normal(140, 3, 70)]).round(2).tolist()
BROUGHT = bring_in(daily_csv([None if n % 11 == 5 else (400 if n == 30 else v) for n, v in enumerate(_values)]))
BEGUN = first_ledger(BROUGHT.observations, BROUGHT.how, AS_OF)
POOL = (
    Blanks(treatment=FilledStraight()),
    Outliers(),
    Provisional(rule=LastFew(last=4)),
    Shifts(then=(Follow.AFRESH,)),
    Shifts(then=(Follow.DIFFERENCE,)),
    Derive(what=Change()),
    Average(window=Window(length=9, need=3), tail=Tail.FADED),
    Band(window=Window(length=15, need=5)),
)
OTHER = {
    "blanks": {"treatment": [{"kind": "open"}, {"kind": "carry-on"}, {"kind": "straight"}], "longest": [1, 3]},
    "outliers": {
        "rule": [{"kind": "neighbours", "far": 4.0}, {"kind": "fence"}],
        "then": [{"kind": "open"}, {"kind": "limit"}],
    },
    "provisional": {"rule": [{"kind": "last", "last": 2}, {"kind": "last", "last": 4}]},
    "shifts": {"shortest": [14, 28]},
    "derive": {"what": [{"kind": "change"}, {"kind": "total"}]},
    "average": {"window": [{"kind": "periods", "length": 5, "need": 3}, {"kind": "calendar", "length": 1, "need": 3}]},
    "band": {"window": [{"kind": "periods", "length": 10, "need": 5}, {"kind": "periods", "length": 15, "need": 5}]},
}
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
    return [lines, drawn, repr(reports)]


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
    words = OTHER[item.kind]
    word = sorted(words)[how % len(words)]
    value = words[word][how % len(words[word])]  # type: ignore[index]
    changed = item.model_copy(update={"params": {**item.params, word: value}})
    return [*entries[:at], changed, *entries[at + 1 :]]


# something that can be nudged, a heavy entry that waits meanwhile, and what follows it
CHOSEN = st.builds(
    lambda first, shift, reading: [*first, shift, reading],
    st.lists(st.integers(0, 5), min_size=1, max_size=3),
    st.sampled_from([3, 4]),
    st.sampled_from([6, 7]),
)


@example([0, 3, 6], [("edit", 0, 0)])
@settings(max_examples=40)
@given(CHOSEN, ACTS)
def test_a_run_with_a_memo_is_a_run_without_one(chosen: list[int], acts: list[tuple[str, int, int]]) -> None:
    memo = Memo(most_bytes=150_000)
    entries = [record(POOL[n], f"t{place}") for place, n in enumerate(chosen)]
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
