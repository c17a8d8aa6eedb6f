"""List studies, show the bench, and edit with revisions, undo and redo."""

from __future__ import annotations

import time
from datetime import date
from typing import Any

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, Field
from sqlalchemy import Engine

from zembra.api.application import application
from zembra.api.models.bench import (
    BenchView,
    EditRequest,
    EffectView,
    MoveRequest,
    OrderView,
    PointRow,
    PreviewRequest,
    StretchView,
    StudyView,
    Suggestion,
    SuggestRequest,
)
from zembra.api.models.evidence import EvidenceView
from zembra.api.models.problem import Problem
from zembra.api.models.studies import (
    CopyRequest,
    DamagedStudy,
    NewStudy,
    RemovedStudy,
    RenameRequest,
    StudyCard,
    StudyList,
)
from zembra.api.paths import Moment, StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import bench_figure, bench_view, dataset_view, evidence_view, offer_view, study_view, table_view
from zembra.core.asking.ask import open_questions
from zembra.core.calendar.lines import Line
from zembra.core.english import counted
from zembra.core.entries.calendar.start import suggested_as_of
from zembra.core.entries.repairs.stretch import stretch_offers
from zembra.core.errors import Refusal
from zembra.core.figure.model import Figure, FigureSettings
from zembra.core.figure.parts.base import milliseconds
from zembra.core.handover.tables import line_rows
from zembra.core.intake.bringin import BroughtIn
from zembra.core.ledger.compare import error_table
from zembra.core.ledger.model import Ledger, checked, record
from zembra.core.ledger.order import order_matters
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import Result, stamped
from zembra.core.study.renaming import renamed_ledger
from zembra.core.study.summary import StudySummary
from zembra.service.many.study import forget
from zembra.service.runs import StudyRun, how_read
from zembra.service.summaries import summarise, summarised
from zembra.store.datasets import dataset, datasets, unused_datasets
from zembra.store.errors import Altered, NotKept
from zembra.store.feeds import waiting_feeds
from zembra.store.studies import (
    KeptStudy,
    copy_for_columns,
    copy_study,
    create_study,
    edit_study,
    erase_study,
    kept_studies,
    kept_study,
    redo_study,
    remove_study,
    rename_study,
    restore_study,
    undo_study,
)
from zembra.store.summaries import Summaries
from zembra.store.tables import Dataset, Study
from zembra.store.watching import every_finding

PATIENCE = 0.1  # seconds that a list waits for what is said of studies

blueprint = Resource(
    "studies",
    __name__,
    url_prefix="/api/studies",
    abp_tags=[Tag(name="studies")],
    abp_responses={404: Problem, 409: Problem, 422: Problem},
)
MOST_STRETCH_ROWS = 60
MOST_CALLS = 3  # of a watch, that a card says


class EntryQuery(BaseModel):
    entry: str


class WindowQuery(BaseModel):
    """Milliseconds since 1970 UTC."""

    start: Moment
    end: Moment


class PointQuery(BaseModel):
    series: str
    start: int = Field(0, ge=0)
    count: int = Field(200, ge=1, le=2000)


@blueprint.get("", summary="All studies", responses={200: StudyList})
def studies() -> Response:
    engine = application().engine
    found = kept_studies(engine)
    files = {file.id: file for file in datasets(engine)}
    said = Summaries(engine, application().said)
    new = _New(engine)
    cards: list[StudyCard] = []
    damaged = [
        DamagedStudy(id=study.study_id, name=study.name, why=study.why, dataset_id=study.dataset_id)
        for study in found.damaged
    ]
    end = time.monotonic() + PATIENCE
    for kept in found.studies:
        try:
            cards.append(_card(kept, files.get(kept.dataset_id), said, new, wait=time.monotonic() < end))
        except (NotKept, Refusal, Altered) as error:
            why = f"its file cannot be read. {error}"
            damaged.append(DamagedStudy(id=kept.study.id or 0, name=kept.study.name, why=why, dataset_id=None))
    if any(card.unfinished for card in cards):
        summarised(application())
    return reply(
        StudyList(
            studies=cards,
            damaged=damaged,
            removed=[_removed(study) for study in found.removed],
            unused=[dataset_view(file) for file in unused_datasets(engine)],
        )
    )


@blueprint.post("", summary="Begin a study", responses={201: BenchView})
def begin(body: NewStudy) -> Response:
    data = dataset(application().engine, body.dataset_id)
    ledger = checked(body.ledger)
    brought, result = _first_run(data, ledger, body.as_of)
    _refuse_open_questions(brought, result)
    as_of = body.as_of or suggested_as_of(result.state, application().today())
    kept = create_study(
        application().engine, body.name, body.dataset_id, ledger, FigureSettings(title=body.name), as_of
    )
    return _bench(kept, status=201)


def _first_run(data: Dataset, ledger: Ledger, as_of: date | None) -> tuple[BroughtIn, Result]:
    """Run source and calendar."""
    brought = application().readings.of(data, how_read(ledger, data))
    asked = ledger.start
    return brought, application().runs.carry_out(brought, asked, as_of or application().today(), data.name)


def _refuse_open_questions(brought: BroughtIn, result: Result) -> None:
    """Raise Refusal while questions about the file are open."""
    still = open_questions(brought, result)
    if still:
        raise Refusal(
            f"{counted(len(still), 'question')} about the file {'are' if len(still) > 1 else 'is'} open.",
            place=still[0].title,
            todo="Answer it on the Intake screen, or wave it through.",
        )


@blueprint.get("/<int:study_id>", summary="The bench of a study", responses={200: BenchView})
def bench(path: StudyPath) -> Response:
    return _bench(kept_study(application().engine, path.study_id))


@blueprint.delete("/<int:study_id>", summary="Remove a study; it can be brought back", responses={204: None})
def remove(path: StudyPath) -> Response:
    remove_study(application().engine, path.study_id)
    return Response(status=204)


@blueprint.post("/<int:study_id>/restore", summary="Bring a removed study back", responses={200: StudyView})
def restore(path: StudyPath) -> Response:
    return _study(restore_study(application().engine, path.study_id))


@blueprint.delete("/<int:study_id>/removed", summary="Remove a removed study for good", responses={204: None})
def erase(path: StudyPath) -> Response:
    erase_study(application().engine, path.study_id)
    forget(application(), path.study_id)
    return Response(status=204)


@blueprint.post("/<int:study_id>/copy", summary="Copy a study, for other columns too", responses={201: StudyView})
def copy(path: StudyPath, body: CopyRequest) -> Response:
    names = {old: new for old, new in body.names.items() if old != new}
    if not names:
        return _study(copy_study(application().engine, path.study_id), status=201)
    kept = kept_study(application().engine, path.study_id)
    # refuse what cannot run on these columns before storing it
    application().runs.run(kept, renamed_ledger(kept.ledger, names), patience=0)
    return _study(copy_for_columns(application().engine, path.study_id, names), status=201)


@blueprint.put("/<int:study_id>/name", summary="Rename a study", responses={200: StudyView})
def rename(path: StudyPath, body: RenameRequest) -> Response:
    return _study(rename_study(application().engine, path.study_id, body.name))


@blueprint.post("/<int:study_id>/preview", summary="Run an unsaved ledger", responses={200: BenchView})
def preview(path: StudyPath, body: PreviewRequest) -> Response:
    kept = kept_study(application().engine, path.study_id)
    ran = application().runs.run(kept, body.ledger, nudged=body.nudged, as_of=body.as_of)
    unanswered = application().runs.unanswered(ran)
    return reply(bench_view(kept, ran, body.ledger, body.settings, body.window, body.looking, unanswered))


@blueprint.get("/<int:study_id>/evidence", summary="What an entry shows for what it did", responses={200: EvidenceView})
def evidence(path: StudyPath, query: EntryQuery) -> Response:
    ran = application().runs.run(kept_study(application().engine, path.study_id), patience=0)
    return reply(evidence_view(ran.result, query.entry))


@blueprint.get("/<int:study_id>/figure", summary="The figure within a window of time", responses={200: Figure})
def figure(path: StudyPath, query: WindowQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    result = application().runs.run(kept, patience=0).result
    return reply(bench_figure(result, kept.figure, (query.start, query.end)))


@blueprint.put("/<int:study_id>/revision", summary="Keep an edit", responses={200: BenchView})
def edit(path: StudyPath, body: EditRequest) -> Response:
    kept = kept_study(application().engine, path.study_id)
    asked = checked(body.ledger)
    # a ledger that cannot be run at all is refused before it is kept
    ran = application().runs.run(kept, asked, as_of=body.as_of, patience=0)
    ledger = stamped(asked, ran.result)
    edited = edit_study(application().engine, path.study_id, body.base, ledger, body.settings, body.what, body.as_of)
    # the result is stored as run, unless work is pending
    return _bench(edited, ran=None if ran.works else ran)


@blueprint.post("/<int:study_id>/undo", summary="Back to the revision before", responses={200: BenchView})
def undo(path: StudyPath, body: MoveRequest) -> Response:
    return _bench(undo_study(application().engine, path.study_id, body.base))


@blueprint.post("/<int:study_id>/redo", summary="Forward again", responses={200: BenchView})
def redo(path: StudyPath, body: MoveRequest) -> Response:
    return _bench(redo_study(application().engine, path.study_id, body.base))


@blueprint.post("/<int:study_id>/suggestion", summary="A new entry as first offered", responses={200: Suggestion})
def suggest(path: StudyPath, body: SuggestRequest) -> Response:
    kind = kinds().get(body.kind)
    if kind is None:
        raise Refusal(f"There is no entry kind named “{body.kind}”.")
    result = application().runs.run(kept_study(application().engine, path.study_id), body.ledger, patience=0).result
    return reply(Suggestion(record=record(kind.suggest(result.state))))


@blueprint.get("/<int:study_id>/order", summary="Entries whose order matters", responses={200: OrderView})
def order(path: StudyPath) -> Response:
    kept = kept_study(application().engine, path.study_id)
    ran = application().runs.run(kept, patience=0)
    shared = application()
    found = order_matters(
        ran.brought.observations,
        kept.ledger,
        kept.as_of,
        ran.data.name,
        shared.runs.memo,
        budget=shared.settings.run_budget,
    )
    return reply(OrderView(matters=found))


@blueprint.get("/<int:study_id>/effect", summary="What an entry does to the projections", responses={200: EffectView})
def effect(path: StudyPath, query: EntryQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    with_it = application().runs.run(kept)
    entries = tuple(
        item.model_copy(update={"on": False}) if item.id == query.entry else item for item in kept.ledger.entries
    )
    without = application().runs.run(kept, checked(kept.ledger.model_copy(update={"entries": entries})))
    if with_it.result.pending or without.result.pending:
        return reply(EffectView(tables=[], waiting=True))
    table = error_table(with_it.result, without.result)
    expected = with_it.result.state.expected
    return reply(EffectView(tables=[table_view(table, expected)] if table else [], waiting=False))


@blueprint.get(
    "/<int:study_id>/stretch", summary="Neighbouring periods and what can be done", responses={200: StretchView}
)
def stretch(path: StudyPath, query: PointQuery) -> Response:
    result = application().runs.run(kept_study(application().engine, path.study_id), patience=0).result
    line = _line_of(result, query.series)
    last = min(len(line), query.start + query.count) - 1
    if last < query.start:
        raise Refusal("There is no such period in the series.", place=f"{line.name} has {len(line)} periods")
    labels = result.state.grain.labels(line.periods[[query.start, last]])
    return reply(
        StretchView(
            series=line.name,
            title=labels[0] if last == query.start else f"{labels[0]} to {labels[1]}",
            rows=_rows(result, line, query.start, min(query.count, MOST_STRETCH_ROWS)),
            offers=[offer_view(offer) for offer in stretch_offers(result.state, line, query.start, last)],
        )
    )


def _line_of(result: Result, series: str) -> Line:
    line = next((candidate for candidate in result.state.lines if candidate.name == series), None)
    if line is None:
        raise Refusal(f"There is no series named “{series}” in this study.")
    return line


def _rows(result: Result, line: Line, start: int, count: int) -> list[PointRow]:
    reasons = {report.id: report.sentence for report in result.reports}
    file_rows = result.state.frame["row"].to_numpy()
    part = line.part(slice(start, start + count))
    drawn_at = milliseconds(part.periods, result.state.expected)
    return [
        PointRow(
            period=row[1],
            at=drawn_at[n],
            row=int(file_rows[part.first_row[n]]) if part.first_row[n] >= 0 else None,
            raw=row[2],
            value=float(row[3]) if row[3] else None,
            received=row[4],
            condition=row[5],
            reason=row[6],
        )
        for n, row in enumerate(line_rows(result, part, reasons))
    ]


def _bench(kept: KeptStudy, status: int = 200, ran: StudyRun | None = None) -> Response:
    """Return the bench.

    ran: a run at hand
    """
    ran = ran or application().runs.run(kept)
    return reply(bench_view(kept, ran, kept.ledger, kept.figure, unanswered=application().runs.unanswered(ran)), status)


def _removed(study: Study) -> RemovedStudy:
    assert study.id is not None
    assert study.removed_at is not None
    return RemovedStudy(id=study.id, name=study.name, removed_at=study.removed_at.isoformat())


def _study(kept: KeptStudy, status: int = 200) -> Response:
    data = dataset(application().engine, kept.dataset_id)
    return reply(study_view(kept, data, kept.as_of), status)


class _New:
    """News of studies: waiting rows and findings."""

    def __init__(self, engine: Engine) -> None:
        self._feeds = waiting_feeds(engine)
        self._found = every_finding(engine)

    def about(self, study_id: int) -> dict[str, Any]:
        feed, found = self._feeds.get(study_id), self._found.get(study_id, [])
        return {
            "waits": feed.said if feed and feed.received_id is not None else "",
            "waiting_file": feed.received_id if feed else None,
            "feed_trouble": feed.trouble if feed else "",
            "calls": [finding.text for finding in found[:MOST_CALLS]],
            "call_count": len(found),
        }


def _card(kept: KeptStudy, data: Dataset | None, said: Summaries, new: _New, *, wait: bool) -> StudyCard:
    """Return the card of a study.

    wait: whether to compute a missing summary
    """
    data = data or dataset(application().engine, kept.dataset_id)
    summary = said.get(kept)
    if summary is None:
        unknown = StudySummary(entries=len(kept.ledger.entries), unfinished=True)
        summary = summarise(application(), kept, said) if wait else unknown
    return StudyCard(study=study_view(kept, data, kept.as_of), **dict(summary), **new.about(kept.study.id or 0))
