"""Judge projections: backtest candidates in child processes, or all series quickly."""

from __future__ import annotations

from collections.abc import Callable, MutableMapping, Sequence
from dataclasses import dataclass, field, replace
from threading import Lock

from zembra.core.calendar.lines import Line
from zembra.core.entries.projections.projection import Projection
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.judging.asked import Judging, JudgingRequest, study_of, usual_judging, what_it_rests_on
from zembra.core.judging.candidates import Candidate
from zembra.core.judging.everyseries import SeriesVerdict
from zembra.core.judging.sums import sum_of
from zembra.core.judging.verdict import Bench, Verdict, verdict_key
from zembra.core.ledger.digest import digest
from zembra.core.ledger.model import entry_of
from zembra.core.ledger.state import State, Study
from zembra.service.application import Application
from zembra.service.process_pools import CORES, JUDGING
from zembra.store.studies import kept_study
from zembra.version import __version__
from zembra.work.executor import EndReason, Executor, Report, TaskLimits, advised, run_one

FEW_SERIES, FEW_STARTS = 12, 4  # beyond so many series, so many starting points are what is usual
BEHIND = TaskLimits(niceness=10)  # judging steps back for what somebody waits for
_TODO = {EndReason.MEMORY: "Hold back less, or from fewer starting points."}
_LOCK = Lock()  # the verdicts that are known are shared by all who judge


@dataclass(frozen=True, slots=True)
class JudgingWanted:
    """What to judge.

    entry: id of the projection, by default the first
    words: settings that are not default
    seasons: lengths to try
    at_a_glance: judge every series quickly
    """

    entry: str
    words: dict[str, int]
    seasons: tuple[int, ...]
    at_a_glance: bool = False


@dataclass(frozen=True, slots=True)
class Subject:
    """A projection to judge.

    names: of its series
    """

    study_id: int
    asked: JudgingRequest
    entry: Projection
    names: list[str]

    def key(self, what: str) -> str:
        """A cache key of question, numbers and Zembra version."""
        asked = self.asked
        return digest(
            what,
            __version__,
            asked.observations.digest,
            asked.ledger.model_dump_json(),
            *asked.series,
            asked.as_of.isoformat(),
            asked.judging.model_dump_json(),
        )


def subject_of(
    application: Application, study_id: int, wanted: JudgingWanted, choose: Callable[[list[str]], list[str]]
) -> Subject:
    """Return the requested projection. Raises Refusal.

    choose: selects among its series
    """
    kept = kept_study(application.engine, study_id)
    ledger = kept.ledger
    projections = [record for record in ledger.entries if record.kind == Projection.kind and record.on]
    found = next((projection for projection in projections if not wanted.entry or projection.id == wanted.entry), None)
    if found is None:
        raise Refusal("There is no projection to judge yet.", todo="Add one to the ledger, here or on the bench.")
    entry = entry_of(found)
    assert isinstance(entry, Projection)
    data, brought = application.runs.read(kept, ledger)
    asked_of = what_it_rests_on(ledger, ledger.entries.index(found))
    before = asked_of.model_copy(update={"entries": asked_of.entries[:-1]})
    state = application.runs.carry_out(brought, before, kept.as_of, data.name, memo=application.runs.memo).state
    names = [state.lines[n].name for n in state.chosen(entry.series)]
    series = choose(names)
    chosen = [line for line in state.lines if line.name in series]
    usual = _usual(
        entry, chosen if wanted.at_a_glance else [sum_of(chosen) if len(chosen) > 1 else chosen[0]], state, found.id
    )
    if wanted.at_a_glance and len(series) > FEW_SERIES:
        usual = usual.model_copy(update={"starts": FEW_STARTS})
    judging = Judging.model_validate({**usual.model_dump(), **wanted.words, "seasons": wanted.seasons})
    study = Study(state.expected, state.as_of, found.id, events=state.events)
    asked = JudgingRequest(
        brought.observations,
        asked_of,
        tuple(series),
        kept.as_of,
        data.name,
        judging,
        study,
        application.settings.run_budget,
    )
    return Subject(study_id, asked, entry, names)


def _usual(entry: Projection, lines: list[Line], state: State, entry_id: str) -> Judging:
    """Return default settings for the first line that can be judged. Raises Refusal."""
    refused: Refusal | None = None
    for line in lines:
        try:
            return usual_judging(entry, line, study_of(state, entry_id))
        except Refusal as refusal:
            refused = refused or refusal
    assert refused is not None
    raise refused


@dataclass
class Judged:
    """Work that judges candidates.

    known: cached verdicts
    bench, verdicts: available as they finish
    """

    asked: JudgingRequest
    known: MutableMapping[str, Verdict]
    executor: Executor = JUDGING
    bench: Bench | None = None
    verdicts: dict[str, Verdict] = field(default_factory=dict)

    def __call__(self, progress: Progress) -> None:
        self.bench = None
        self.verdicts.clear()
        with advised(_TODO):
            bench = run_one(
                self.executor,
                _make_bench,
                self.asked,
                name="judging",
                limits=BEHIND,
                check=lambda: progress("judging the candidates", 0.0),
            )
        keys = {candidate.key: verdict_key(self.asked, bench, candidate) for candidate in bench.every}
        with _LOCK:
            for candidate in bench.every:
                verdict = self.known.get(keys[candidate.key])
                if verdict is not None:
                    # the same candidate may have another name here
                    self.verdicts[candidate.key] = replace(verdict, key=candidate.key)
            self.bench = bench
        missing = [candidate for candidate in bench.every if candidate.key not in self.verdicts]
        # fast candidates appear while slow ones are still fitted
        missing.sort(key=lambda candidate: not candidate.at_once)
        steps = 0

        def on_report(_: int, __: str, ___: object) -> None:
            nonlocal steps
            steps += 1

        def check() -> None:
            progress("judging the candidates", steps / max(1, len(missing) * len(bench.starts)))

        tasks = [(bench, candidate) for candidate in missing]
        with advised(_TODO):
            for number, verdict in self.executor.map(
                _judge, tasks, name="judging", limits=BEHIND, on_report=on_report, check=check
            ):
                key = missing[number].key
                with _LOCK:
                    self.verdicts[key] = self.known[keys[key]] = verdict


@dataclass
class AtAGlance:
    """Work that judges every series on all cores.

    rows: finished ones
    """

    asked: JudgingRequest
    executor: Executor = JUDGING
    rows: list[SeriesVerdict] = field(default_factory=list)

    def __call__(self, progress: Progress) -> None:
        self.rows.clear()
        names = self.asked.series
        shares = [(self.asked, names[n::CORES]) for n in range(CORES) if names[n::CORES]]

        def check() -> None:
            progress(f"{len(self.rows)} of {len(names)} series judged", len(self.rows) / len(names))

        with advised(_TODO):
            for _ in self.executor.map(
                _judge_series,
                shares,
                name="judging",
                limits=BEHIND,
                on_report=lambda _, __, row: self.rows.append(row),
                check=check,
            ):
                pass


# judging is imported by the children that do it


def _make_bench(_: Report, asked: JudgingRequest) -> Bench:
    from zembra.core.judging.verdict import bench_of

    return bench_of(asked)


def _judge(report: Report, bench: Bench, candidate: Candidate) -> Verdict:
    from zembra.core.judging.verdict import judge

    return judge(candidate, bench, lambda: report("step", None))


def _judge_series(report: Report, asked: JudgingRequest, names: Sequence[str]) -> None:
    from zembra.core.judging.everyseries import series_verdicts

    series_verdicts(asked, names, lambda row: report("series", row))
