"""Run a ledger: a pure function of observations, ledger and as-of date, cached line by line."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from functools import lru_cache

from zembra.core.calendar.budget import USUAL, Budget, weight_of
from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.intake.observe import Observations
from zembra.core.ledger.digest import digest
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.lineentry import LineEntry, LineResult, directly
from zembra.core.ledger.memo import Memo, Whole
from zembra.core.ledger.model import Ledger, Record, checked, entry_of, in_version
from zembra.core.ledger.recall import Recall, remembered_whole
from zembra.core.ledger.shapes import Area, Curve
from zembra.core.ledger.state import Offer, Outcome, PartOfLines, State, Study
from zembra.core.speaking import Part, nouns_in, parts, written

MOST_SECONDS = 0.3  # of work that a request does itself


@dataclass(frozen=True, slots=True)
class LineTask:
    """Deferred work of one entry on one line.

    key: cache key of the result
    """

    key: str
    line: Line
    study: Study


@dataclass(frozen=True, slots=True)
class Pending:
    """Deferred work of a slow entry.

    key: of the work on all lines; it stays the same while single lines are finished
    """

    id: str
    key: str
    entry: LineEntry
    tasks: tuple[LineTask, ...]


@dataclass(frozen=True, slots=True)
class Report:
    """The report of one entry of a run.

    problem: why it could not run; the others still do
    waiting: whether some of its lines are deferred
    counts_in: the unit that its numbers count, None if they count none
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
    """The result of a run.

    base: the state before any repair
    pending: deferred work
    readings: name of what each entry drew, by entry id
    """

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
    check: Callable[[str], None] = lambda title: None,
    part: PartOfLines | None = None,
) -> Result:
    """Run every entry that is switched on, in order. An entry that refuses, or would exceed the budget, is reported
    with its problem and skipped.

    check: called with the entry's title before every entry and line; what it raises ends the run
    defer: report slow, uncached work as pending instead of doing it
    nudged: id of the entry whose parameter is being changed; slow work after it waits
    part: as of State
    """
    ledger = checked(ledger)
    begun = State(observations, as_of, file_name, budget=budget, part=part)
    runner = _Run(begun, Recall(memo), _DeferredWork(defer), check)
    base = runner.state
    reports: list[Report] = []
    for item in ledger.entries:
        entry = entry_of(item)
        before = runner.state
        if not item.on:
            reports.append(_report(item, entry, before, runner.readings, Outcome()))
            continue
        try:
            outcome, waiting = runner.carry_out(item, entry)
        except Refusal as refusal:
            if type(entry).once:
                raise
            reports.append(_report(item, entry, before, runner.readings, Outcome(), problem=refusal))
            continue
        finally:
            runner.deferred.waits = runner.deferred.waits or item.id == nudged
        if type(entry).once:
            before = base = runner.state  # the calendar gives the source its nouns too
        reports.append(_report(item, entry, before, runner.readings, outcome, waiting=waiting))
    nouns = tuple(base.nouns.words.items())
    said = tuple(
        replace(report, parts=_said(report.entry, nouns)) if type(report.entry).once else report for report in reports
    )
    return Result(runner.state, base, said, runner.readings, tuple(runner.deferred.pending))


@dataclass
class _DeferredWork:
    """Decides what is deferred.

    defer: slow work is done elsewhere
    waits: slow work is not even queued, because a parameter before it is being changed
    seconds: estimated time of the work that was not deferred
    """

    defer: bool
    waits: bool = False
    seconds: float = 0.0
    pending: list[Pending] = field(default_factory=list)

    def is_deferred(self, entry: LineEntry, line: Line) -> bool:
        seconds = entry.seconds_on(line) if self.defer or self.waits else 0.0
        if not seconds:
            return False
        if self.waits or self.seconds + seconds > MOST_SECONDS:
            return True
        self.seconds += seconds
        return False

    def add(self, item: Record, entry: LineEntry, asked: list[str], tasks: list[LineTask]) -> None:
        if tasks and not self.waits:
            self.pending.append(Pending(item.id, digest(*asked), entry, tuple(tasks)))


@dataclass
class _Run:
    """A run in progress.

    readings: name of what each entry drew
    drawn_bytes: of all shapes
    """

    state: State
    recall: Recall
    deferred: _DeferredWork
    check: Callable[[str], None]
    drawn_bytes: int = 0
    readings: dict[str, str] = field(default_factory=dict)

    def carry_out(self, item: Record, entry: Entry) -> tuple[Outcome, bool]:
        """Return the outcome of an entry, and whether some of it is deferred. Raises Refusal."""
        self.check(type(entry).title)
        count = len(self.state.shapes)
        done = self._by_line(item, entry) if isinstance(entry, LineEntry) else (self._whole(item, entry), False)
        new = self.state.shapes[count:]
        self.drawn_bytes += weight_of((), (array for shape in new for array in shape.arrays()))
        drawn = next((shape for kind in (Curve, Area) for shape in new if isinstance(shape, kind)), None)
        if drawn is not None:
            self.readings[item.id] = drawn.name
        return done

    def _whole(self, item: Record, entry: Entry) -> Outcome:
        key = self.recall.whole_key(self.state, item)
        known = remembered_whole(self.recall, key, entry, item, self.state)
        adds = known.outcome.adds
        after = adds.onto(self.state)
        shapes = (array for shape in adds.shapes for array in shape.arrays())
        after.budget.check_bytes(self.drawn_bytes + weight_of(after.lines, shapes), type(entry).title)
        self.recall.note_whole(item, key, known, after)
        self.state = after
        return known.outcome

    def _by_line(self, item: Record, entry: LineEntry) -> tuple[Outcome, bool]:
        before = self.state
        key_of = self.recall.key_maker(before, item, entry)
        made_keys: dict[str, str] = {}
        asked: list[str] = []
        tasks: list[LineTask] = []
        made_bytes = self.drawn_bytes + weight_of(before.lines)

        def carry(form: LineEntry, line: Line, study: Study) -> LineResult | Refusal | None:
            """Return the result on a line, or None if it is deferred."""
            nonlocal made_bytes
            self.check(type(form).title)
            key = key_of(line, study)
            asked.append(key)
            known = self.recall.find(key)
            if known is None:
                if self.deferred.is_deferred(form, line):
                    tasks.append(LineTask(key, line, study))
                    return None
                known = directly(form, line, study)
                self.recall.keep(key, known, line.arrays())
            assert not isinstance(known, Whole)
            made_keys[line.name] = key
            if isinstance(known, LineResult):
                made_bytes += weight_of((), known.arrays())
                before.budget.check_bytes(made_bytes, type(form).title)
            return known

        outcome = entry.apply(before, item.id, carry)
        self.state = outcome.adds.onto(before)
        self.deferred.add(item, entry, asked, tasks)
        self.recall.note_lines(item, made_keys, before, self.state)
        return outcome, bool(tasks)


@lru_cache(maxsize=4096)
def _said(entry: Entry, nouns: tuple[tuple[str, str], ...]) -> tuple[Part, ...]:
    """Render an entry. Cached, as an edit changes few of them."""
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
    named = {f"reading {entry_id}": name for entry_id, name in readings.items()}
    said = _said(entry, tuple({**state.nouns.words, **named, **outcome.nouns}.items()))
    counts = not type(entry).once and _counts_periods(entry)
    counts_in = state.grain.plural if counts else None
    if item.on and item.counted_in and counts_in and item.counted_in != counts_in:
        warning = f"Its numbers were set for {item.counted_in}; they now count {counts_in}."
        meant = Offer(warning, "It is meant so", item.kind, {}, change=True)
        outcome = replace(outcome, offers=(meant, *outcome.offers))
    return Report(item.id, item.kind, item.on, entry, said, outcome, problem, waiting, counts_in)


def stamped(ledger: Ledger, result: Result) -> Ledger:
    """Return the ledger with units and package versions recorded on its entries."""
    counts = {report.id: report.counts_in for report in result.reports}
    return ledger.model_copy(
        update={
            "entries": tuple(
                in_version(item if item.counted_in else item.model_copy(update={"counted_in": counts.get(item.id)}))
                for item in ledger.entries
            )
        }
    )
