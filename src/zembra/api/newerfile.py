"""Giving a study another file: what that changes, and doing it as a revision."""

from __future__ import annotations

from dataclasses import asdict
from datetime import date

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel

from zembra.api.application import application
from zembra.api.models.bench import BenchView
from zembra.api.models.newerfile import NewerFile, NewerFileView, OpenQuestion, SeriesChange
from zembra.api.models.problem import Problem
from zembra.api.paths import Identifier, StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import bench_view
from zembra.core.asking.ask import open_questions
from zembra.core.asking.question import Question, settled
from zembra.core.errors import Refusal
from zembra.core.ledger.model import Ledger, checked
from zembra.core.ledger.run import Result, stamped
from zembra.core.ledger.start import suggested_as_of
from zembra.core.study.newerfile import compare_files
from zembra.service.runs import how_read
from zembra.store.datasets import dataset
from zembra.store.studies import Kept, edit_study, kept_study
from zembra.store.tables import Dataset

blueprint = Resource(
    "newer file",
    __name__,
    url_prefix="/api/studies/<int:study_id>/file",
    abp_tags=[Tag(name="studies")],
    abp_responses={404: Problem, 409: Problem, 422: Problem},
)


class FileQuery(BaseModel):
    dataset_id: Identifier


@blueprint.get("", summary="What another file would change", responses={200: NewerFileView})
def look(path: StudyPath, query: FileQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    data = dataset(application().engine, query.dataset_id)
    _, result, questions, as_of = _on_file(kept, data, None)
    comparison = compare_files(application().runs.run(kept, patience=0).result, result)
    return reply(
        NewerFileView(
            file=data.name,
            as_of=as_of.isoformat(),
            series=[SeriesChange.model_validate(asdict(change)) for change in comparison.series],
            new_series=list(comparison.new_series),
            lost_series=list(comparison.lost_series),
            misfits=list(comparison.misfits),
            questions=[OpenQuestion(title=question.title, text=question.text) for question in questions],
        )
    )


@blueprint.put("", summary="Put the study on another file", responses={200: BenchView})
def take(path: StudyPath, body: NewerFile) -> Response:
    kept = kept_study(application().engine, path.study_id)
    data = dataset(application().engine, body.dataset_id)
    ledger, result, questions, as_of = _on_file(kept, data, body.as_of)
    if questions and not body.waved:
        raise Refusal(
            "Questions about the file are open.",
            place=questions[0].title,
            todo="Wave them through, or bring it in as a study.",
        )
    how = ledger.intake
    assert how is not None
    for question in questions:
        how = settled(question, how, None)
    ledger = stamped(checked(ledger.model_copy(update={"intake": how})), result)
    edited = edit_study(
        application().engine,
        path.study_id,
        body.base,
        ledger,
        kept.figure,
        f"Another file: {data.name}",
        as_of,
        data.id,
    )
    return reply(bench_view(edited, application().runs.run(edited), edited.ledger, edited.figure))


def _on_file(kept: Kept, data: Dataset, as_of: date | None) -> tuple[Ledger, Result, tuple[Question, ...], date]:
    """(the ledger, its run on the file read as the study reads its own, open questions about the file, the day)."""
    own = dataset(application().engine, kept.dataset_id)
    try:
        brought = application().readings.of(data, how_read(kept.ledger, own))
    except Refusal as refusal:
        raise Refusal(
            f"“{data.name}” cannot be read as “{own.name}” is. {refusal.what}",
            place=refusal.place,
            todo="Choose a file of the same kind, or bring this one in as a study of its own.",
        ) from None
    ledger = kept.ledger.model_copy(update={"intake": brought.how})
    begun = ledger.model_copy(
        update={"entries": tuple(entry for entry in ledger.entries if entry.kind in ("source", "calendar"))}
    )
    start = application().runs.carry_out(brought, begun, as_of or kept.as_of, data.name)
    day = as_of or max(kept.as_of, suggested_as_of(start.state, application().today()))
    result = application().runs.carry_out(brought, ledger, day, data.name, memo=application().runs.memo, defer=True)
    return ledger, result, open_questions(brought, start), day
