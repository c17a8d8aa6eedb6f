"""Sum all series of a study by parts of their names."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import Tag
from pydantic import ValidationError

from zembra.api.application import application
from zembra.api.models.allseries import NamePartView, TogetherRequest, TogetherView
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import sentence_view, work_view
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.ledger.model import first_fault
from zembra.core.many.summing import SumWords
from zembra.service.many.seriessums import begin_sums, sums_state
from zembra.store.studies import kept_study

blueprint = Resource(
    "together",
    __name__,
    url_prefix="/api/studies/<int:study_id>/all-series/together",
    abp_tags=[Tag(name="all series")],
    abp_responses={404: Problem, 422: Problem},
)


@blueprint.get("", summary="How a study stands with the sums of its series", responses={200: TogetherView})
def together(path: StudyPath) -> Response:
    now = sums_state(application(), kept_study(application().engine, path.study_id))
    about = now.about or {}
    return reply(
        TogetherView(
            sentence=sentence_view(now.words, Nouns()),
            parts=[
                NamePartView(name=part.name, values=part.values, examples=list(part.examples), without=part.without)
                for part in now.parts
            ],
            sums=about.get("sums"),
            edited=now.edited,
            failed=about.get("failed", 0),
            notes=about.get("notes", []),
            work=work_view(now.work) if now.work else None,
        )
    )


@blueprint.post("", summary="Sum the series, and carry the ledger out on the sums", responses={202: WorkView})
def sum_them(path: StudyPath, body: TogetherRequest) -> Response:
    try:
        words = SumWords.model_validate(body.words)
    except ValidationError as error:
        raise Refusal(f"What is to be summed cannot be read: {first_fault(error)}") from None
    return reply(work_view(begin_sums(application(), path.study_id, words)), 202)
