"""Judging: shared out among the cores, and standing back for edits on the bench."""

from __future__ import annotations

import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

from benchmarks.bench_edit import Study as EditedStudy
from benchmarks.bench_edit import ten_series
from benchmarks.bench_ledger import AS_OF
from benchmarks.measure import Ratio, compare, seconds
from zembra.api import create_app
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LastPeriods
from zembra.core.entries.projections.projection import Projection
from zembra.core.intake.bringin import bring_in
from zembra.core.judging.asked import Judging, JudgingRequest, study_of
from zembra.core.ledger.model import record
from zembra.core.ledger.run import run
from zembra.demo import demo_file
from zembra.service.judging import Judged
from zembra.work.processes import Processes, ready

STARTS, CORES, ROUNDS = 8, 2, 3
FIRST_SECONDS, ALL_SECONDS = 1.0, 6.0
AVERAGE = {
    "id": "d",
    "kind": "average",
    "params": {"window": {"kind": "periods", "length": 28, "need": 20}},
}


def _asked() -> JudgingRequest:
    """Candidates on the demo's sailings from eight starting points."""
    brought = bring_in(demo_file("sailings.csv"))
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    entry = Projection(ahead=AheadPeriods(count=14), since=LastPeriods(count=180), series=("Outer Isles",))
    ledger = begun.model_copy(update={"entries": (*begun.entries, record(entry, "p"))})
    state = run(brought.observations, begun, AS_OF).state
    study = replace(study_of(state, "p"), others=())
    judging = Judging(ahead=14, starts=STARTS, apart=7)
    return JudgingRequest(brought.observations, ledger, ("Outer Isles",), AS_OF, "sailings.csv", judging, study)


def measure() -> Iterator[Ratio]:
    ready()
    asked = _asked()

    def judge(children: int) -> None:
        Judged(asked, {}, executor=Processes(children))(lambda _, __: None)

    yield from _how_long(asked)
    yield compare(
        f"all candidates from {STARTS} starting points, on {CORES} cores against one",
        0.7,
        lambda: judge(CORES),
        lambda: judge(1),
        rounds=1,
    )
    yield _edits_meanwhile(lambda: judge(CORES))


def _how_long(asked: JudgingRequest) -> Iterator[Ratio]:
    """Until the first candidates can be shown, and until all are judged."""
    firsts, wholes = [], []
    for _ in range(ROUNDS):
        judged = Judged(asked, {}, executor=Processes(CORES))
        begun = time.perf_counter()
        first: list[float] = []

        def progress(*_: object, judged: Judged = judged, begun: float = begun, first: list[float] = first) -> None:
            if judged.verdicts and not first:
                first.append(time.perf_counter() - begun)

        judged(progress)
        wholes.append(time.perf_counter() - begun)
        firsts.append(first[0] if first else wholes[-1])
    for name, took, bar in (("the first candidates", firsts, FIRST_SECONDS), ("all candidates", wholes, ALL_SECONDS)):
        best = min(took)
        yield Ratio(f"{name} from {STARTS} starting points judged, of {bar:g} s", best / bar, 1.0, f"{best:.2f} s")


def _edits_meanwhile(judging: Callable[[], None]) -> Ratio:
    """Edits of an average over ten series while both cores judge, against edits alone."""
    with tempfile.TemporaryDirectory() as folder:
        study = EditedStudy(create_app(Path(folder) / "bench.db", lambda: AS_OF).test_client(), ten_series(), [AVERAGE])

        def edits() -> float:
            return min(seconds(lambda: study.edit("window.length", lambda turn: 20 + turn % 300)) for _ in range(12))

        edits()
        alone = edits()
        worker = threading.Thread(target=judging)
        worker.start()
        times = []
        while worker.is_alive():
            times.append(edits())
        worker.join()
    meanwhile = sorted(times)[len(times) // 2]
    return Ratio(
        "an edit on the bench while both cores judge, against one alone",
        meanwhile / alone,
        1.3,
        f"{meanwhile * 1000:.1f} ms against {alone * 1000:.1f} ms, best of 12",
    )
