"""Judging a projection: candidates on held-back periods, in the background, kept for the revision."""

from __future__ import annotations

import os
from collections.abc import Callable, MutableMapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from threading import Lock
from typing import Annotated

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from zembra import __version__
from zembra.apart import judged_apart, series_judged_apart
from zembra.api.context import context
from zembra.api.judgedview import EverySeriesView, JudgedView, every_series_view, judged_view
from zembra.api.models import Problem
from zembra.api.paths import Identifier, StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import work_view
from zembra.background import Lane, Stage, Work
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.judging.asked import Asked, Judging, study_of, usual_judging, what_it_rests_on
from zembra.core.judging.everyseries import SeriesVerdict
from zembra.core.judging.sums import sum_of
from zembra.core.judging.verdict import Bench, Verdict, verdict_key
from zembra.core.ledger.digest import digest
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.model import entry_of
from zembra.core.ledger.state import State, Study
from zembra.core.lines import Line
from zembra.store.judged import judged, keep_judged
from zembra.store.studies import kept_study

SOON = 0.5  # seconds
CORES = max(1, os.cpu_count() or 1)
_LOCK = Lock()  # the verdicts that are known are shared by all who judge
FEW_SERIES, FEW_STARTS = 12, 4  # beyond so many series, so many starting points are what is usual

blueprint = Resource(
    "judging",
    __name__,
    url_prefix="/api/studies/<int:study_id>/judging",
    abp_tags=[Tag(name="judging")],
    abp_responses={404: Problem, 422: Problem},
)


class EveryQuery(BaseModel):
    """entry: id of the projection; none for the first one. ahead, starts, apart: words of the judging sentence; none for
    what is usual. seasons: lengths of one's own, with commas between."""

    entry: str = ""
    ahead: Annotated[int | None, Field(ge=1, le=400)] = None
    starts: Annotated[int | None, Field(ge=1, le=40)] = None
    apart: Annotated[int | None, Field(ge=1, le=400)] = None
    seasons: Annotated[str, Field(pattern=r"^(\d{1,3}(,\d{1,3}){0,7})?$")] = ""


class JudgingQuery(EveryQuery):
    """series: none for the first that it projects. together: the sum of all that it projects instead."""

    series: str = ""
    together: bool = False


@dataclass(frozen=True, slots=True)
class Subject:
    """A projection that is to be judged. names: of the series it projects."""

    study_id: Identifier
    asked: Asked
    entry: Projection
    names: list[str]

    def key(self, what: str) -> str:
        """The same for the same question to the same numbers, by the same Zembra."""
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


@blueprint.get("", summary="Candidates judged on held-back periods", responses={200: JudgedView})
def judging(path: StudyPath, query: JudgingQuery) -> Response:
    def wanted(names: list[str]) -> list[str]:
        if query.together:
            if len(names) < 2:
                raise Refusal("The projection has one series only: there is no sum.", todo="Judge that series.")
            return names
        if query.series and query.series not in names:
            raise Refusal(f"The projection does not speak of a series “{query.series}”.", todo="Choose another one.")
        return [query.series or names[0]]

    subject = _subject(path.study_id, query, wanted)

    def view(work: Work) -> JudgedView:
        assert isinstance(work.do, _Judged)
        done = work.stage is Stage.DONE
        return judged_view(
            subject.asked,
            subject.entry,
            subject.names,
            work.do.bench,
            dict(work.do.verdicts),
            None if done else work_view(work),
        )

    return _told(subject, "judging", JudgedView, _Judged(subject.asked, context().verdicts), view)


@blueprint.get("/series", summary="Every series at a glance, what needs a look first", responses={200: EverySeriesView})
def every_series(path: StudyPath, query: EveryQuery) -> Response:
    subject = _subject(path.study_id, query, lambda names: names, at_a_glance=True)

    def view(work: Work) -> EverySeriesView:
        assert isinstance(work.do, _AtAGlance)
        done = work.stage is Stage.DONE
        return every_series_view(subject.asked, subject.entry, work.do.rows, None if done else work_view(work))

    return _told(subject, "every series", EverySeriesView, _AtAGlance(subject.asked), view)


def _told(
    subject: Subject,
    what: str,
    model: type[BaseModel],
    do: Callable[[Progress], object],
    view: Callable[[Work], BaseModel],
) -> Response:
    """The answer as far as it is known; the work for it is begun where it is not under way. What is finished is kept,
    and outlives the server."""
    key, engine, background = subject.key(what), context().engine, context().background
    known = judged(engine, key)
    if known is not None:
        return reply(model.model_validate_json(known))
    work = background.get(key)
    if work is None:
        work = background.submit(key, Lane.JUDGING, do, f"{what} {subject.study_id}")
        work.finished.wait(SOON)
    if work.failure is not None:
        raise work.failure
    found = view(work)
    if work.stage is Stage.DONE:
        keep_judged(engine, subject.study_id, key, found.model_dump_json())
    return reply(found)


def _subject(
    study_id: int, query: EveryQuery, wanted: Callable[[list[str]], list[str]], *, at_a_glance: bool = False
) -> Subject:
    """The projection that is asked for. wanted: which of the series that it projects. Raises Refusal."""
    kept = kept_study(context().engine, study_id)
    ledger = kept.ledger
    projections = [one for one in ledger.entries if one.kind == Projection.kind and one.on]
    found = next((one for one in projections if not query.entry or one.id == query.entry), None)
    if found is None:
        raise Refusal("There is no projection to judge yet.", todo="Add one to the ledger, here or on the bench.")
    entry = entry_of(found)
    assert isinstance(entry, Projection)
    data, brought = context().read(kept, ledger)
    asked_of = what_it_rests_on(ledger, ledger.entries.index(found))
    before = asked_of.model_copy(update={"entries": asked_of.entries[:-1]})
    state = context().carry_out(brought, before, kept.as_of, data.name, memo=context().memo).state
    names = [state.lines[n].name for n in state.chosen(entry.series)]
    series = wanted(names)
    chosen = [line for line in state.lines if line.name in series]
    usual = _usual(
        entry, chosen if at_a_glance else [sum_of(chosen) if len(chosen) > 1 else chosen[0]], state, found.id
    )
    if at_a_glance and len(series) > FEW_SERIES:
        usual = usual.model_copy(update={"starts": FEW_STARTS})
    words = {name: value for name in ("ahead", "starts", "apart") if (value := getattr(query, name)) is not None}
    own = [int(one) for one in query.seasons.split(",") if one]
    judging = Judging.model_validate({**usual.model_dump(), **words, "seasons": own})
    study = Study(state.expected, state.as_of, found.id, events=state.events)
    asked = Asked(
        brought.observations,
        asked_of,
        tuple(series),
        kept.as_of,
        data.name,
        judging,
        study,
        context().settings.run,
    )
    return Subject(study_id, asked, entry, names)


def _usual(entry: Projection, lines: list[Line], state: State, by: str) -> Judging:
    """What is held back of the first line that can be judged. Raises Refusal where none can be."""
    refused: Refusal | None = None
    for line in lines:
        try:
            return usual_judging(entry, line, study_of(state, by))
        except Refusal as refusal:
            refused = refused or refusal
    assert refused is not None
    raise refused


@dataclass
class _Judged:
    """The work: the candidates shared out among the cores. known: verdicts that are there, whoever asked for them. bench,
    verdicts: what is judged and each verdict, as soon as it is there."""

    asked: Asked
    known: MutableMapping[str, Verdict]
    bench: Bench | None = None
    verdicts: dict[str, Verdict] = field(default_factory=dict)

    def __call__(self, progress: Progress) -> None:
        self.bench = None
        self.verdicts.clear()
        far = [0.0] * CORES
        with _LOCK:
            known = frozenset(self.known)

        def on_bench(bench: Bench) -> None:
            with _LOCK:
                if self.bench is not None:
                    return
                for one in bench.every:
                    verdict = self.known.get(verdict_key(self.asked, bench, one))
                    if verdict is not None:
                        # the same candidate may have another name here
                        self.verdicts[one.key] = replace(verdict, key=one.key)
                self.bench = bench

        def on_verdict(candidate: str, key: str, verdict: Verdict) -> None:
            with _LOCK:
                self.verdicts[candidate] = self.known[key] = verdict

        def still() -> None:
            progress("judging the candidates", sum(far) / CORES)

        def part(n: int) -> None:
            def on_step(share: float) -> None:
                far[n] = share

            judged_apart(self.asked, (n, CORES), known, on_bench, on_verdict, on_step, still)

        with ThreadPoolExecutor(CORES) as pool:
            list(pool.map(part, range(CORES)))


@dataclass
class _AtAGlance:
    """The work: the series shared out among the cores. rows: those that are done."""

    asked: Asked
    rows: list[SeriesVerdict] = field(default_factory=list)

    def __call__(self, progress: Progress) -> None:
        self.rows.clear()
        names = self.asked.series

        def still() -> None:
            progress(f"{len(self.rows)} of {len(names)} series judged", len(self.rows) / len(names))

        def part(n: int) -> None:
            series_judged_apart(self.asked, names[n::CORES], self.rows.append, still)

        with ThreadPoolExecutor(CORES) as pool:
            list(pool.map(part, range(CORES)))
