"""Judge a projection in the background; the verdicts are kept with the revision."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.judgedview import EverySeriesView, JudgedView, every_series_view, judged_view
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.waiting import answer_of
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.service.judging import AtAGlance, Judged, JudgingWanted, Subject, subject_of
from zembra.store.actor import read_only
from zembra.store.judged import judged, keep_judged
from zembra.work.queue import Lane

SOON = 0.5  # seconds

blueprint = Resource(
    "judging",
    __name__,
    url_prefix="/api/studies/<int:study_id>/judging",
    abp_tags=[Tag(name="judging")],
    abp_responses={404: Problem, 422: Problem},
)


class EveryQuery(BaseModel):
    """Query.

    entry: id of the projection, by default the first
    ahead, starts, apart: settings, by default usual
    seasons: lengths to try, comma-separated
    """

    entry: str = ""
    ahead: Annotated[int | None, Field(ge=1, le=400)] = None
    starts: Annotated[int | None, Field(ge=1, le=40)] = None
    apart: Annotated[int | None, Field(ge=1, le=400)] = None
    seasons: Annotated[str, Field(pattern=r"^(\d{1,3}(,\d{1,3}){0,7})?$")] = ""


class JudgingQuery(EveryQuery):
    """Query.

    series: by default the first projected
    together: judge the sum instead
    """

    series: str = ""
    together: bool = False


@blueprint.post("", summary="Candidates judged on held-back periods", responses={200: JudgedView, 202: WorkView})
def judging(path: StudyPath, query: JudgingQuery) -> Response:
    def choose(names: list[str]) -> list[str]:
        if query.together:
            if len(names) < 2:
                raise Refusal("The projection has one series only: there is no sum.", todo="Judge that series.")
            return names
        if query.series and query.series not in names:
            raise Refusal(f"The projection does not speak of a series “{query.series}”.", todo="Choose another one.")
        return [query.series or names[0]]

    subject = _subject(path.study_id, query, choose)

    work = Judged(subject.asked, application().verdicts)

    def view() -> JudgedView:
        return judged_view(subject.asked, subject.entry, subject.names, work.bench, dict(work.verdicts))

    return _answer(subject, "judging", JudgedView, work, view)


@blueprint.post(
    "/series",
    summary="Every series at a glance, what needs a look first",
    responses={200: EverySeriesView, 202: WorkView},
)
def every_series(path: StudyPath, query: EveryQuery) -> Response:
    subject = _subject(path.study_id, query, lambda names: names, at_a_glance=True)
    work = AtAGlance(subject.asked)
    return _answer(
        subject,
        "every series",
        EverySeriesView,
        work,
        lambda: every_series_view(subject.asked, subject.entry, work.rows),
    )


def _answer(
    subject: Subject, what: str, model: type[BaseModel], do: Callable[[Progress], object], view: Callable[[], BaseModel]
) -> Response:
    """Return the result or the running work, which is started if needed. Finished results are stored.

    view: formats what is known
    """
    key, engine, queue = subject.key(what), application().engine, application().queue
    known = judged(engine, key)
    if known is not None:
        return reply(model.model_validate_json(known))

    def judge(progress: Progress) -> BaseModel:
        do(progress)
        found = view()
        if not read_only.get():
            keep_judged(engine, subject.study_id, key, found.model_dump_json())
        return found

    # results for read-only users are not stored, so they are separate work
    begun = f"{key} looking" if read_only.get() else key
    work = queue.get(begun) or queue.submit(
        begun, Lane.JUDGING, judge, f"{what} {subject.study_id}", answer=reply, so_far=lambda: reply(view())
    )
    return answer_of(work, SOON)


def _subject(
    study_id: int, query: EveryQuery, choose: Callable[[list[str]], list[str]], *, at_a_glance: bool = False
) -> Subject:
    words = {name: value for name in ("ahead", "starts", "apart") if (value := getattr(query, name)) is not None}
    seasons = tuple(int(length) for length in query.seasons.split(",") if length)
    return subject_of(application(), study_id, JudgingWanted(query.entry, words, seasons, at_a_glance), choose)
