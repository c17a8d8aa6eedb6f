"""Running a ledger: a pure function of observations, ledger and as-of date, memoised by prefix."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass, replace
from datetime import date

from zembra.core.errors import Refusal
from zembra.core.grammar import Part, parts
from zembra.core.intake.observe import Observations
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, Record, checked, entry_of
from zembra.core.ledger.state import Offer, Outcome, State


@dataclass(frozen=True, slots=True)
class Report:
    """One entry's part in a run. problem: why it could not be carried out; the run goes on.

    counts_in: the periods that its numbers count, None where it counts none.
    """

    id: str
    kind: str
    on: bool
    entry: Entry
    parts: tuple[Part, ...]
    outcome: Outcome
    problem: Refusal | None = None
    waiting: bool = False
    counts_in: str | None = None

    @property
    def sentence(self) -> str:
        text = "".join(part.text for part in self.parts)
        return text[:1].upper() + text[1:]


@dataclass(frozen=True, slots=True)
class Result:
    """A finished run. base: the lines as they came onto the calendar, before any repair."""

    state: State
    base: State
    reports: tuple[Report, ...]

    @property
    def problems(self) -> list[Report]:
        return [report for report in self.reports if report.problem]


def run(
    observations: Observations,
    ledger: Ledger,
    as_of: date,
    *,
    file_name: str = "the file",
    memo: Memo | None = None,
    nudged: str | None = None,
) -> Result:
    """Carry out every entry that is switched on, in order.

    An entry that refuses is reported with its problem and passed over. While a word of the entry
    `nudged` is being changed, heavy entries after it that are not in the memo wait.
    """
    ledger = checked(ledger)
    state = State(observations=observations, as_of=as_of, file_name=file_name)
    base = state
    key = _digest(observations.digest, as_of.isoformat(), file_name)
    reports: list[Report] = []
    past_nudged = False
    for item in ledger.entries:
        entry = entry_of(item)
        if not item.on:
            reports.append(_report(item, entry, state, Outcome(state)))
            continue
        before_it, key = key, _digest(key, item.id, item.kind, json.dumps(item.params, sort_keys=True))
        known = memo.get(key) if memo is not None else None
        if known is None and entry.heavy and past_nudged:
            # it did nothing: what follows is not the outcome of a ledger that holds it
            key = before_it
            reports.append(_report(item, entry, state, Outcome(state), waiting=True))
            continue
        if known is None:
            try:
                known = entry.apply(state, item.id)
            except Refusal as refusal:
                known = refusal
            if memo is not None:
                memo.put(key, known)
        past_nudged = past_nudged or item.id == nudged
        if isinstance(known, Refusal):
            if type(entry).once:
                raise known
            reports.append(_report(item, entry, state, Outcome(state), problem=known))
            continue
        before, state = state, known.state
        if type(entry).once:
            before = base = state  # the calendar gives the source its nouns too
        reports.append(_report(item, entry, before, known))
    said = [replace(r, parts=tuple(parts(r.entry, base.nouns))) if type(r.entry).once else r for r in reports]
    return Result(state, base, tuple(said))


def _report(
    item: Record,
    entry: Entry,
    state: State,
    outcome: Outcome,
    *,
    problem: Refusal | None = None,
    waiting: bool = False,
) -> Report:
    said = tuple(parts(entry, state.nouns))
    counts = not type(entry).once and "{@period" in entry.template()
    counts_in = state.grain.plural if counts else None
    if item.on and item.counted_in and counts_in and item.counted_in != counts_in:
        told = f"Its numbers were set for {item.counted_in}; they now count {counts_in}."
        meant = Offer(told, "It is meant so", item.kind, {}, change=True)
        outcome = replace(outcome, offers=(meant, *outcome.offers))
    return Report(item.id, item.kind, item.on, entry, said, outcome, problem, waiting, counts_in)


def stamped(ledger: Ledger, result: Result) -> Ledger:
    """The ledger in which every entry remembers the periods its numbers were set for."""
    counts = {report.id: report.counts_in for report in result.reports}
    return ledger.model_copy(
        update={
            "entries": tuple(
                item if item.counted_in else item.model_copy(update={"counted_in": counts.get(item.id)})
                for item in ledger.entries
            )
        }
    )


def _digest(*texts: str) -> str:
    return hashlib.sha256("\x1f".join(texts).encode()).hexdigest()
