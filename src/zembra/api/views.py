"""Convert core and store objects to response models."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict
from datetime import date

from zembra.api.models.bench import BenchView, EntryView, OfferView, Options, ProblemView, StudyView
from zembra.api.models.catalogue import ChoiceView, ClauseView, SlotView
from zembra.api.models.datasets import DatasetView
from zembra.api.models.evidence import (
    ColumnView,
    EvidenceView,
    FindingView,
    PartView,
    PlotView,
    SentenceView,
    TableView,
)
from zembra.api.models.intake import CountView, IntakeSentence, NoticeView, QuestionView, RawRows, Understanding
from zembra.api.models.work import WorkView
from zembra.core.asking.ask import every_question
from zembra.core.asking.census import census
from zembra.core.asking.question import Question
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.seasons import usual_cycle, usual_season
from zembra.core.entries.calendar.source import Source
from zembra.core.entries.shared.column import other_columns
from zembra.core.figure.build import build_figure
from zembra.core.figure.dressed import in_dress
from zembra.core.figure.model import Figure, FigureSettings
from zembra.core.figure.parts.base import milliseconds
from zembra.core.grammar import Clause, Nouns, Sentence
from zembra.core.handover.report import evidence_data, table_data, warnings_of
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.howread import HowRead, ValueKind
from zembra.core.intake.joining import periods_across
from zembra.core.ledger.evidence import Finding, Table, periods_of
from zembra.core.ledger.model import Ledger, NotUnderstood
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import Report, Result
from zembra.core.ledger.state import Offer
from zembra.core.slots import Slot, slots
from zembra.core.speaking import Part, parts
from zembra.service.runs import StudyRun
from zembra.store.studies import KeptStudy
from zembra.store.tables import Dataset
from zembra.work.queue import Work

SAMPLE_ROWS = 40


def slot_view(slot: Slot) -> SlotView:
    return SlotView(
        name=slot.name,
        type=slot.type,
        title=slot.title,
        minimum=slot.minimum,
        maximum=slot.maximum,
        step=slot.step,
        unit=slot.unit,
        options=slot.options,
        empty=slot.empty,
        usual=slot.usual,
        ordered=slot.spoken == "ordered",
        choices=[ChoiceView(value=value, label=label, tip=tip) for value, label, tip in slot.choices],
        clauses=[_clause_view(clause) for clause in slot.clauses],
    )


def _clause_view(clause: type[Clause]) -> ClauseView:
    params = clause().model_dump(mode="json")
    return ClauseView(kind=params["kind"], label=clause.label, tip=clause.tip, words=words_of(clause), params=params)


def words_of(model: type[Sentence]) -> list[SlotView]:
    return [slot_view(slot) for slot in slots(model).values()]


def table_view(table: Table, expected: Expected) -> TableView:
    data = table_data(table)
    return TableView(
        title=table.title,
        columns=[ColumnView.model_validate(asdict(column)) for column in table.columns],
        rows=data["rows"],
        findings=finding_views(table.findings, expected),
        deeds=[deed.value for deed in table.deeds],
    )


def finding_views(findings: Sequence[Finding | None], expected: Expected) -> list[FindingView | None]:
    periods = periods_of(finding for finding in findings if finding)
    labelled = iter(zip(expected.grain.labels(periods), milliseconds(periods, expected), strict=True))
    views: list[FindingView | None] = []
    for finding in findings:
        if finding is None:
            views.append(None)
            continue
        label, at = next(labelled)
        views.append(
            FindingView(
                series=finding.series,
                period=label,
                at=at,
                value=finite(finding.value),
                against=finite(finding.against),
                distance=finite(finding.distance),
                state=finding.state,
                note=finding.note,
            )
        )
    return views


def finite(value: float | None) -> float | None:
    """Return None for numbers that JSON cannot hold."""
    return None if value is None or not math.isfinite(value) else value


def evidence_view(result: Result, entry: str) -> EvidenceView:
    """Return the evidence of an entry, empty if it does not exist."""
    report = next((told_of for told_of in result.reports if told_of.id == entry), None)
    expected = result.state.expected
    return EvidenceView(
        entry=entry,
        items=[
            table_view(told_of, expected)
            if isinstance(told_of, Table)
            else PlotView.model_validate(evidence_data(told_of))
            for told_of in (report.outcome.evidence if report else ())
        ],
    )


def work_view(work: Work) -> WorkView:
    failure = str(work.failure) if work.failure else None
    return WorkView(
        key=work.key,
        stage=work.stage.value,
        doing=work.doing,
        share=work.share,
        failure=failure,
        notices=list(work.notices),
    )


def offer_view(offer: Offer) -> OfferView:
    return OfferView(
        why=offer.why, action=offer.action, kind=offer.kind, params=dict(offer.params), change=offer.change
    )


def entry_view(report: Report, work: Work | None = None, unanswered: Sequence[str] = ()) -> EntryView:
    """Convert an entry.

    unanswered: questions about the file, for the source entry
    """
    kind = kinds().get(report.kind, NotUnderstood)
    problem = report.problem
    return EntryView(
        id=report.id,
        kind=report.kind,
        group=kind.group.value,
        title=kind.title,
        on=report.on,
        params=report.entry.model_dump(mode="json"),
        parts=[part_view(part) for part in report.parts],
        touched=report.outcome.touched,
        touched_what=report.outcome.touched_what,
        warnings=[
            *(f"{question} Nobody was asked: bring the file in again to answer." for question in unanswered),
            *report.outcome.warnings,
        ],
        offers=[offer_view(offer) for offer in report.outcome.offers],
        problem=ProblemView(what=problem.what, place=problem.place, todo=problem.todo) if problem else None,
        waiting=report.waiting,
        work=work_view(work) if work else None,
    )


def part_view(part: Part) -> PartView:
    return PartView(text=part.text, slot=part.slot, quiet=part.quiet, name=part.name)


def parts_view(sentence: Sentence, nouns: Nouns) -> list[PartView]:
    return [part_view(part) for part in parts(sentence, nouns)]


def sentence_view(sentence: Sentence, nouns: Nouns) -> SentenceView:
    return SentenceView(words=sentence.model_dump(mode="json"), parts=parts_view(sentence, nouns))


def study_view(kept: KeptStudy, data: Dataset, as_of: date) -> StudyView:
    study = kept.study
    assert study.id is not None
    return StudyView(
        id=study.id,
        name=study.name,
        revision=kept.revision.number,
        what=kept.revision.what,
        who=kept.revision.who,
        changed_at=study.changed_at.isoformat(),
        can_undo=kept.can_undo,
        can_redo=kept.can_redo,
        as_of=as_of.isoformat(),
        dataset_id=kept.dataset_id,
        file=data.name,
        sha256=data.sha256,
    )


def options_of(brought: BroughtIn, result: Result) -> Options:
    return Options(
        lines=[line.name for line in result.state.lines],
        series=list(brought.observations.series),
        measures=list(brought.observations.measures),
        other_columns=other_columns(brought.observations),
        columns=list(brought.table.columns),
        sheets=list(brought.table.sheets),
    )


def _usual_figures(expected: Expected) -> dict[str, int]:
    figures = {"season": usual_season(expected), "cycle": usual_cycle(expected)}
    return {name: figure for name, figure in figures.items() if figure}


def bench_view(
    kept: KeptStudy,
    ran: StudyRun,
    ledger: Ledger,
    settings: FigureSettings,
    window: tuple[int, int] | None = None,
    evidence_for: str | None = None,
    unanswered: Sequence[str] = (),
) -> BenchView:
    result = ran.result
    # the figure is long: built by the core, it is not validated again
    return BenchView.model_construct(
        study=study_view(kept, ran.data, result.state.as_of),
        ledger=ledger,
        settings=settings,
        entries=[
            entry_view(report, ran.works.get(report.id), unanswered if report.kind == Source.kind else ())
            for report in result.reports
        ],
        figure=bench_figure(result, settings, window),
        figure_parts=parts_view(settings, result.state.nouns),
        options=options_of(ran.brought, result),
        usual=_usual_figures(result.state.expected),
        readings=[ChoiceView(value=entry, label=name, tip="") for entry, name in result.readings.items()],
        warnings=warnings_of(result),
        evidence=evidence_view(result, evidence_for) if evidence_for else None,
    )


def bench_figure(result: Result, settings: FigureSettings, window: tuple[int, int] | None = None) -> Figure:
    """Return the figure of the bench, in the dress of the first picture if any."""
    figure = build_figure(result, settings, window)
    return in_dress(figure, result, settings.pictures[0]) if settings.pictures else figure


def dataset_view(data: Dataset) -> DatasetView:
    assert data.id is not None
    return DatasetView(
        id=data.id, name=data.name, size=data.size, sha256=data.sha256, received_at=data.received_at.isoformat()
    )


def understanding(data: Dataset, brought: BroughtIn, ledger: Ledger, result: Result) -> Understanding:
    questions = every_question(brought, result)
    return Understanding(
        dataset=dataset_view(data),
        how=brought.how,
        sentences=_intake_sentences(brought.how),
        ledger=ledger,
        entries=[entry_view(report) for report in result.reports],
        options=options_of(brought, result),
        questions=[_question(question, brought.how) for question in questions],
        notices=[NoticeView(text=n.text, action=n.action, change=dict(n.change)) for n in brought.notices],
        rows=_raw_rows(brought, questions),
        figure=build_figure(result, FigureSettings()),
        as_of=result.state.as_of.isoformat(),
        census=[CountView.model_validate(asdict(count)) for count in census(result.base)],
    )


def _question(question: Question, how: HowRead) -> QuestionView:
    closed = next((item for item in how.settled if item.key == question.key), None)
    return QuestionView(
        key=question.key,
        title=question.title,
        text=question.text,
        answers=[answer.label for answer in question.answers],
        rows=list(question.rows),
        columns=list(question.columns),
        closed=closed is not None,
        answer=closed.answer if closed else None,
        plain=question.plain,
    )


def _intake_sentences(how: HowRead) -> list[IntakeSentence]:
    nouns = Nouns()
    return [
        IntakeSentence(
            name=name,
            parts=parts_view(sentence, nouns),
            params=sentence.model_dump(mode="json"),
        )
        for name, sentence in how.sentences().items()
    ]


def _raw_rows(brought: BroughtIn, questions: Sequence[Question]) -> RawRows:
    """Return the first rows, and those of questions."""
    how, table = brought.how, brought.table
    across = set(periods_across(table, how)) if how.values.kind is ValueKind.ACROSS else set()

    def role(column: str) -> str:
        if column in (how.dates.column, *how.dates.more):
            return "date"
        if column in (how.series.column, *how.series.more):
            return "series"
        return "number" if column in across or column in how.values.columns else "none"

    shown = range(min(SAMPLE_ROWS, table.height))
    wanted = {row for question in questions for row in question.rows}
    further = table.numbers.is_in(sorted(wanted)).arg_true().to_list()
    places = sorted({*shown, *further})
    return RawRows(
        columns=list(table.columns),
        roles=[role(column) for column in table.columns],
        numbers=table.numbers.gather(places).to_list(),
        cells=[list(row) for row in table.cells[places].iter_rows()],
        height=table.height,
    )
