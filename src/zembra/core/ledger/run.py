"""Running a ledger: a pure function of observations, ledger and as-of date, remembered line by line."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from functools import lru_cache

from zembra.core.budget import USUAL, Budget, weight_of
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns, Part, nouns_in, parts, written
from zembra.core.intake.observe import Observations
from zembra.core.ledger.digest import digest, expected_digest, line_digest, words_digest
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.lineentry import LineEntry, Made, directly
from zembra.core.ledger.memo import Memo, Whole
from zembra.core.ledger.model import Ledger, Record, checked, entry_of
from zembra.core.ledger.state import Offer, Outcome, State, Study
from zembra.core.lines import Line
from zembra.core.shapes import TOGETHER, Area, Curve


@dataclass(frozen=True, slots=True)
class Task:
    """What one entry makes of one line, still to be worked out. key: under which it is remembered."""

    key: str
    line: Line
    study: Study


@dataclass(frozen=True, slots=True)
class Pending:
    """The lines of a heavy entry that are still to be worked on. key: of its work on all lines, the same while one
    after the other is done."""

    id: str
    key: str
    entry: LineEntry
    tasks: tuple[Task, ...]


@dataclass(frozen=True, slots=True)
class Report:
    """One entry's part in a run. problem: why it could not be carried out; the run goes on.

    waiting: it has not been carried out on every line yet. counts_in: the periods that its numbers count,
    None where it counts none.
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
        return written(self.parts)


@dataclass(frozen=True, slots=True)
class Result:
    """A finished run. base: the lines as they came onto the calendar, before any repair. pending: what was left
    to be worked out elsewhere. readings: per entry the name of what it drew."""

    state: State
    base: State
    reports: tuple[Report, ...]
    readings: Mapping[str, str]
    pending: tuple[Pending, ...] = ()

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
    defer: bool = False,
    budget: Budget = USUAL,
    still: Callable[[str], None] = lambda title: None,
) -> Result:
    """Carry out every entry that is switched on, in order.

    An entry that refuses, or would need more than the budget, is reported with its problem and passed over. still: asked
    before every entry and line, by the entry's title; whatever it raises ends the run. With `defer`, what is heavy and not
    remembered is not worked out here but told as pending; while a word of the entry `nudged` is being changed,
    what is heavy after it just waits.
    """
    ledger = checked(ledger)
    begun = State(observations=observations, as_of=as_of, file_name=file_name, budget=budget)
    going = _Run(begun, memo, defer, still)
    base = going.state
    reports: list[Report] = []
    for item in ledger.entries:
        entry = entry_of(item)
        before = going.state
        if not item.on:
            reports.append(_report(item, entry, before, going.readings, Outcome()))
            continue
        try:
            outcome, waiting = going.carry_out(item, entry)
        except Refusal as refusal:
            if type(entry).once:
                raise
            reports.append(_report(item, entry, before, going.readings, Outcome(), problem=refusal))
            continue
        finally:
            going.waits = going.waits or item.id == nudged
        if type(entry).once:
            before = base = going.state  # the calendar gives the source its nouns too
        reports.append(_report(item, entry, before, going.readings, outcome, waiting=waiting))
    nouns = tuple(base.nouns.words.items())
    said = tuple(replace(one, parts=_said(one.entry, nouns)) if type(one.entry).once else one for one in reports)
    return Result(going.state, base, said, going.readings, tuple(going.pending))


@dataclass
class _Run:
    """readings: per entry the name of what it drew. keys: per name of a line the digest of all that made it what it is. made_by: per entry and series the
    digest of what was made. waits: heavy work is put off, as a word before it is being changed. drawn: bytes of all shapes."""

    state: State
    memo: Memo | None
    defer: bool
    still: Callable[[str], None]
    waits: bool = False
    drawn: int = 0
    readings: dict[str, str] = field(default_factory=dict)
    keys: dict[str, str] = field(default_factory=dict)
    made_by: dict[tuple[str, str], str] = field(default_factory=dict)
    pending: list[Pending] = field(default_factory=list)
    _study: str = ""

    def carry_out(self, item: Record, entry: Entry) -> tuple[Outcome, bool]:
        """(what the entry did, whether some of it is still to be done). Raises Refusal."""
        self.still(type(entry).title)
        had = len(self.state.shapes)
        done = self._by_line(item, entry) if isinstance(entry, LineEntry) else (self._whole(item, entry), False)
        new = self.state.shapes[had:]
        self.drawn += weight_of((), (array for one in new for array in one.arrays()))
        drawn = next((one for kind in (Curve, Area) for one in new if isinstance(one, kind)), None)
        if drawn is not None:
            self.readings[item.id] = drawn.name
        return done

    def _whole(self, item: Record, entry: Entry) -> Outcome:
        state = self.state
        lines = (self._key(line) for line in state.lines)
        about = (state.observations.digest, state.as_of.isoformat(), state.file_name)
        chosen = repr(state.selection)
        key = digest(*about, chosen, self._study, *lines, item.id, item.kind, words_digest(item.params))
        known = self.memo.get(key) if self.memo is not None else None
        if known is None:
            try:
                outcome = entry.apply(state, item.id)
            except Refusal as refusal:
                known = refusal
            else:
                # without a memory few of them are ever asked for
                made = outcome.adds.lines
                keys = () if self.memo is None or made is None else tuple(line_digest(line) for line in made)
                known = Whole(outcome, keys)
            if self.memo is not None:
                self.memo.put(key, known, (one for line in state.lines for one in line.arrays()))
        if isinstance(known, Refusal):
            raise known
        assert isinstance(known, Whole)
        adds = known.outcome.adds
        after = adds.onto(state)
        shapes = (array for one in adds.shapes for array in one.arrays())
        state.budget.check_bytes(self.drawn + weight_of(after.lines, shapes), type(entry).title)
        self.state = after
        if adds.lines is not None:
            self.keys = dict(zip((line.name for line in adds.lines), known.keys, strict=bool(known.keys)))
        self.made_by[item.id, TOGETHER] = key
        self._study = digest(expected_digest(self.state.expected), state.as_of.isoformat(), repr(self.state.events))
        return known.outcome

    def _key(self, line: Line) -> str:
        """The digest of a line of the state, made when it is first asked for."""
        if line.name not in self.keys:
            self.keys[line.name] = line_digest(line)
        return self.keys[line.name]

    def _by_line(self, item: Record, entry: LineEntry) -> tuple[Outcome, bool]:
        made_keys: dict[str, str] = {}
        asked: list[str] = []
        tasks: list[Task] = []
        known_as = {id(line): self._key(line) for line in self.state.lines}
        own_words = type(entry).words_for is not LineEntry.words_for
        same_words = "" if own_words else words_digest(entry.words_for(""))

        def key_of(line: Line, study: Study) -> str:
            """Digest of all that the entry can see when it works on the line."""
            others = [known_as.get(id(one)) or line_digest(one) for one in study.others]
            earlier = [self.made_by.get((one, of), "") for one in entry.refers_to() for of in (TOGETHER, line.name)]
            words = words_digest(entry.words_for(line.name)) if own_words else same_words
            return digest(self._study, self._key(line), *others, "|", *earlier, item.id, item.kind, words)

        making = self.drawn + weight_of(self.state.lines)

        def carry(one: LineEntry, line: Line, study: Study) -> Made | Refusal | None:
            nonlocal making
            self.still(type(one).title)
            key = key_of(line, study)
            asked.append(key)
            known = self.memo.get(key) if self.memo is not None else None
            if known is None:
                if (self.defer or self.waits) and one.heavy_on(line):
                    tasks.append(Task(key, line, study))
                    return None
                known = directly(one, line, study)
                if self.memo is not None:
                    self.memo.put(key, known, line.arrays())
            assert not isinstance(known, Whole)
            made_keys[line.name] = key
            if isinstance(known, Made):
                making += weight_of((), known.arrays())
                self.state.budget.check_bytes(making, type(one).title)
            return known

        before = self.state
        outcome = entry.apply(before, item.id, carry)
        self.state = outcome.adds.onto(before)
        if tasks and not self.waits:
            self.pending.append(Pending(item.id, digest(*asked), entry, tuple(tasks)))
        for old, new in zip(before.lines, self.state.lines, strict=False):
            if old is not new:
                self.keys[new.name] = made_keys[old.name]
        for new in self.state.lines[len(before.lines) :]:
            self.keys[new.name] = line_digest(new)
        self.made_by.update({(item.id, name): key for name, key in made_keys.items()})
        return outcome, bool(tasks)


@lru_cache(maxsize=4096)
def _said(entry: Entry, nouns: tuple[tuple[str, str], ...]) -> tuple[Part, ...]:
    """An edit says most entries as the run before it did."""
    return tuple(parts(entry, Nouns(dict(nouns))))


@lru_cache(maxsize=4096)
def _counts_periods(entry: Entry) -> bool:
    return bool(nouns_in(entry) & {"period", "periods", "a_period"})


def _report(
    item: Record,
    entry: Entry,
    state: State,
    readings: Mapping[str, str],
    outcome: Outcome,
    *,
    problem: Refusal | None = None,
    waiting: bool = False,
) -> Report:
    named = {f"reading {one}": name for one, name in readings.items()}
    said = _said(entry, tuple({**state.nouns.words, **named, **outcome.nouns}.items()))
    counts = not type(entry).once and _counts_periods(entry)
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
