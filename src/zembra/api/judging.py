"""Judging a projection: candidates on held-back periods, in the background, kept for the revision."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Annotated

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from zembra.apart import judged_apart
from zembra.api.context import context
from zembra.api.judgedview import JudgedView, judged_view
from zembra.api.models import Problem
from zembra.api.reply import reply
from zembra.api.views import work_view
from zembra.background import Lane, Stage
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.judging import Asked, Bench, Verdict, usual_judging
from zembra.core.ledger.digest import digest
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.model import entry_of
from zembra.core.ledger.run import run
from zembra.core.ledger.state import Study
from zembra.store.studies import Kept, kept_study

SOON = 0.5  # seconds

blueprint = APIBlueprint(
    "judging",
    __name__,
    url_prefix="/api/studies/<int:study_id>/judging",
    abp_tags=[Tag(name="judging")],
    abp_responses={404: Problem, 422: Problem},
)


class StudyPath(BaseModel):
    study_id: int


class JudgingQuery(BaseModel):
    """entry: id of the projection; none for the first one. series: none for the first that it projects. ahead, starts,
    apart: words of the judging sentence; none for what is usual."""

    entry: str = ""
    series: str = ""
    ahead: Annotated[int | None, Field(ge=1, le=400)] = None
    starts: Annotated[int | None, Field(ge=1, le=40)] = None
    apart: Annotated[int | None, Field(ge=1, le=400)] = None


@blueprint.get("", summary="Candidates judged on held-back periods", responses={200: JudgedView})
def judging(path: StudyPath, query: JudgingQuery) -> Response:
    kept = kept_study(context().engine, path.study_id)
    asked, entry, names = _asked(kept, query)
    key = digest(
        "judging",
        asked.observations.digest,
        kept.ledger.model_dump_json(),
        asked.entry,
        asked.series,
        asked.as_of.isoformat(),
        asked.judging.model_dump_json(),
    )
    work = context().background.get(key)
    if work is None:
        work = context().background.submit(key, Lane.JUDGING, _judged(asked), f"judging {kept.study.id}")
        work.finished.wait(SOON)
    if work.failure is not None:
        raise work.failure
    if work.stage is not Stage.DONE:
        return reply(judged_view(asked, entry, names, None, {}, work_view(work)))
    bench, verdicts = work.result
    return reply(judged_view(asked, entry, names, bench, verdicts, None))


def _asked(kept: Kept, query: JudgingQuery) -> tuple[Asked, Projection, list[str]]:
    """(what is asked for, the projection entry, the names of the series it projects)."""
    ledger = kept.ledger
    projections = [one for one in ledger.entries if one.kind == Projection.kind and one.on]
    found = next((one for one in projections if not query.entry or one.id == query.entry), None)
    if found is None:
        raise Refusal("There is no projection to judge yet.", todo="Add one to the ledger, here or on the bench.")
    entry = entry_of(found)
    assert isinstance(entry, Projection)
    data, brought = context().read(kept, ledger)
    place = ledger.entries.index(found)
    before = ledger.model_copy(update={"entries": ledger.entries[:place]})
    result = run(brought.observations, before, kept.as_of, file_name=data.name, memo=context().memo)
    names = [result.state.lines[n].name for n in result.state.chosen(entry.series)]
    series = query.series or names[0]
    line = next((one for one in result.state.lines if one.name == series), None)
    if line is None or series not in names:
        raise Refusal(f"The projection does not speak of a series “{series}”.", todo="Choose another one.")
    study = Study(result.state.expected, result.state.as_of, found.id, events=result.state.events)
    usual = usual_judging(entry, line, study)
    words = {name: value for name in ("ahead", "starts", "apart") if (value := getattr(query, name)) is not None}
    judged = usual.model_copy(update=words)
    return Asked(brought.observations, ledger, found.id, series, kept.as_of, data.name, judged, study), entry, names


def _judged(asked: Asked) -> Callable[[Progress], tuple[Bench, dict[str, Verdict]]]:
    """The work: the candidates shared out among the cores."""
    cores = max(1, os.cpu_count() or 1)

    def do(progress: Progress) -> tuple[Bench, dict[str, Verdict]]:
        far = [0.0] * cores

        def still() -> None:
            progress("judging the candidates", sum(far) / cores)

        def part(n: int) -> tuple[Bench, dict[str, Verdict]]:
            def on_step(share: float) -> None:
                far[n] = share

            return judged_apart(asked, (n, cores), on_step, still)

        with ThreadPoolExecutor(cores) as pool:
            found = list(pool.map(part, range(cores)))
        return found[0][0], {key: verdict for _, verdicts in found for key, verdict in verdicts.items()}

    return do
