"""Preview new rows of a study, and take them in."""

from __future__ import annotations

import io
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from pathlib import PurePath

from sqlmodel import SQLModel

from zembra.core.asking.ask import open_questions
from zembra.core.asking.question import Answer, Question, settled
from zembra.core.english import spoken_label
from zembra.core.entries.calendar.start import suggested_as_of
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import Ledger, checked, opened
from zembra.core.ledger.run import Result, stamped
from zembra.core.newrows.changes import Comparison, RevisedPeriods
from zembra.core.newrows.doubts import rows_questions
from zembra.core.newrows.issued import Issued, issued_frame
from zembra.core.newrows.merging import JoinedTable, together
from zembra.core.newrows.renamed import in_terms_of, other_names, roles
from zembra.core.newrows.reread import measured, on_clock_of, reads_all
from zembra.core.newrows.sides import KEY, TableSide, side_of
from zembra.core.newrows.takingwords import TakingHow
from zembra.core.speaking import plain
from zembra.service.application import Application
from zembra.service.runs import how_read
from zembra.store.datasets import dataset, keep_dataset
from zembra.store.feeds import change_feed
from zembra.store.studies import KeptStudy, edit_study
from zembra.store.tables import Dataset, Feed, IssuedProjection, Revision, Taking
from zembra.store.takings import is_issued, keep_issued, revisions_behind, taking_of

_FIRST_KINDS = ("source", "calendar")


@dataclass(frozen=True, slots=True)
class Incoming:
    """New rows of a study.

    received: as stored; came: as read
    names: names in the study of renamed columns
    both: the merged table, None if everything is replaced
    ledger, result: as they would be
    changes: differences, None if the calendars differ
    questions: open ones; own: keys of those that another reading answers
    """

    received: Dataset
    came: BroughtIn
    how: TakingHow
    names: Mapping[str, str]
    both: JoinedTable | None
    brought: BroughtIn
    ledger: Ledger
    result: Result
    changes: RevisedPeriods | None
    questions: tuple[Question, ...]
    own: frozenset[str]
    as_of: date

    def answered(self, question: Question) -> list[tuple[Answer, HowRead, TakingHow]]:
        """Return the answers to a question, with settings of reading and merging for each."""
        if question.key not in self.own:
            return []
        return [
            (
                answer,
                settled(question, self.came.how, answer),
                TakingHow.model_validate({**self.how.model_dump(mode="json"), **answer.taking}),
            )
            for answer in question.answers
            if not answer.entries and "table" not in answer.how
        ]


def incoming(
    application: Application,
    kept: KeptStudy,
    before: Result,
    received: Dataset,
    how: TakingHow | None = None,
    as_of: date | None = None,
    read: HowRead | None = None,
) -> Incoming:
    """Preview new rows; nothing is changed. Raises Refusal.

    before: current run
    how: how they are merged, None to guess
    as_of: None to suggest
    read: how they are read, None for as last time
    """
    runs = application.runs
    own = dataset(application.engine, kept.dataset_id)
    came = application.readings.of(received, read) if read else _read(application, kept, own, received)
    own_how = how_read(kept.ledger, own)
    # columns that Intake was told are those of the study
    said = read is not None and not any(question.key.startswith(KEY) for question in read.settled)
    names = _other_names(application, came, own, own_how, said=said)
    renamed = in_terms_of(came, names)
    counted = came if renamed is None else bring_in(renamed.data, renamed.how)
    first = kept.ledger.model_copy(
        update={"entries": tuple(entry for entry in kept.ledger.entries if entry.kind in _FIRST_KINDS)}
    )
    # missing series are reported by the full run; only its own series are compared
    alone = runs.carry_out(counted, first, as_of or kept.as_of, received.name)
    same_calendar = alone.base.grain == before.base.grain and bool(alone.base.lines)
    compared = Comparison(before.base, alone.base) if same_calendar else None
    words = how or (compared.guessed_how if compared else TakingHow())
    both, brought = renamed, counted
    if not words.replaces:
        both = together(application.readings.of(own, own_how), counted, words)
        brought = bring_in(both.data, both.how)
    ledger = kept.ledger.model_copy(update={"intake": _intake(kept.ledger, brought)})
    start = alone if both is renamed else runs.carry_out(brought, first, as_of or kept.as_of, received.name)
    day = as_of or max(kept.as_of, suggested_as_of(start.state, application.today()))
    result = runs.carry_out(brought, ledger, day, received.name, memo=runs.memo, defer=True)
    changes = compared.changes(before.state, words) if compared else None
    standing = TableSide(
        before.base.observations,
        before.base.lines,
        before.base.grain,
        lambda: application.readings.of(own, own_how).table.columns,
    )
    asked = rows_questions(standing, side_of(counted, alone), came, changes, words, names, said=said)
    # questions about the merged table are only reported, as new rows cannot answer them
    alone_asked = open_questions(counted, alone)
    known = {question.key for question in (*asked, *alone_asked)}
    further = () if both is renamed else open_questions(brought, start)
    questions = (*asked, *alone_asked, *(question for question in further if question.key not in known))
    own_keys = frozenset(question.key for question in (asked if names else (*asked, *alone_asked)))
    return Incoming(received, came, words, names, both, brought, ledger, result, changes, questions, own_keys, day)


def _other_names(
    application: Application, came: BroughtIn, own: Dataset, own_how: HowRead, *, said: bool
) -> dict[str, str]:
    if roles(came.how) == roles(own_how) and not came.how.series.called:
        return {}
    return other_names(came, application.readings.of(own, own_how), said=said)


def take_in(
    application: Application, kept: KeptStudy, before: Result, found: Incoming, *, skip_questions: bool, base: int
) -> KeptStudy:
    """Take the rows in as a revision, with the projection of before. Raises Refusal, Stale.

    skip_questions: whether to ignore open questions
    """
    if found.questions and not skip_questions:
        raise Refusal(
            "Questions about the file are open.",
            place=found.questions[0].title,
            todo="Wave them through, or bring it in as a study.",
        )
    read = found.ledger.intake
    assert read is not None
    for question in found.questions:
        read = settled(question, read, None)
    ledger = stamped(checked(found.ledger.model_copy(update={"intake": read})), found.result)
    standing = found.received
    if found.both is not None:
        own = dataset(application.engine, kept.dataset_id)
        standing = keep_dataset(application.engine, _name_of_both(own, found.received), found.both.data, read)
        application.readings.keep(standing, replace(found.brought, how=read), understood=False)
    assert standing.id is not None
    assert found.received.id is not None
    assert kept.study.id is not None
    study_id, received_id, standing_id = kept.study.id, found.received.id, standing.id
    issued = _issued_row(kept, before, "new rows were taken in")

    def beside(number: int) -> Iterable[SQLModel]:
        yield Taking(
            study_id=study_id,
            revision=number,
            before_id=kept.dataset_id,
            received_id=received_id,
            dataset_id=standing_id,
            words=found.how.model_dump_json(),
            how=found.came.how.model_dump_json(),
        )
        # nobody else writes from here on
        if issued is not None and not is_issued(application.engine, study_id, issued.revision):
            yield issued

    edited = edit_study(
        application.engine,
        study_id,
        base,
        ledger,
        kept.figure,
        f"New rows taken in: {found.received.name}",
        found.as_of,
        standing.id,
        beside,
    )
    change_feed(application.engine, study_id, lambda feed: _taken(feed, received_id))
    return edited


def _taken(feed: Feed, received_id: int) -> None:
    """Clear the waiting rows of the feed."""
    if feed.received_id == received_id:
        feed.received_id, feed.said = None, "What came was taken in."


@dataclass(frozen=True, slots=True)
class Known:
    """A file that a study stood on.

    file: its name
    revision: the last one on it among those before
    """

    as_of: date
    file: str
    revision: Revision
    now: bool


def known_files(application: Application, kept: KeptStudy) -> list[Known]:
    """Return the files that the study stood on, with the day each became known, oldest first."""
    assert kept.study.id is not None
    found: dict[int, Known] = {}
    for revision in revisions_behind(application.engine, kept.study.id, kept.study.head):
        known = found.get(revision.dataset_id)
        file = known.file if known else dataset(application.engine, revision.dataset_id).name
        last = known.revision if known else revision
        found[revision.dataset_id] = Known(revision.as_of, file, last, revision.dataset_id == kept.dataset_id)
    return sorted(found.values(), key=lambda known: (known.as_of, known.revision.number))


def as_known_on(application: Application, kept: KeptStudy, day: date, base: int) -> KeptStudy:
    """Add a revision on the file known on a day, entries unchanged. Raises Refusal, Stale."""
    assert kept.study.id is not None
    known = [file for file in known_files(application, kept) if file.as_of <= day]
    if not known:
        raise Refusal("The study knew of nothing yet on that day.", place=day.isoformat(), todo="Choose a later one.")
    then = known[-1].revision
    ledger = kept.ledger.model_copy(update={"intake": opened(then.ledger).intake})
    what = f"As it was known on {spoken_label(day.isoformat())}"
    return edit_study(application.engine, kept.study.id, base, ledger, kept.figure, what, day, then.dataset_id)


def as_told(kept: KeptStudy, result: Result, why: str = "now") -> Issued:
    """Return the current projection of a study.

    why: the occasion
    """
    return Issued(kept.study.head, kept.as_of.isoformat(), why, issued_frame(result))


def keep_told(application: Application, kept: KeptStudy, result: Result, why: str) -> None:
    """Store the current projection, unless there is none or it is stored already."""
    assert kept.study.id is not None
    if is_issued(application.engine, kept.study.id, kept.study.head):
        return
    row = _issued_row(kept, result, why)
    if row is not None:
        keep_issued(application.engine, row)


def _issued_row(kept: KeptStudy, result: Result, why: str) -> IssuedProjection | None:
    """Return the row to store, or None without a projection."""
    frame = issued_frame(result)
    if not frame.height:
        return None
    out = io.BytesIO()
    frame.write_parquet(out, compression="zstd")
    assert kept.study.id is not None
    return IssuedProjection(
        study_id=kept.study.id, revision=kept.study.head, as_of=kept.as_of, why=why, numbers=out.getvalue()
    )


@dataclass(frozen=True, slots=True)
class Unlike:
    """A sentence of reading that differs.

    was: of the last file; now: as detected
    """

    was: str
    now: str


def reading_difference(application: Application, kept: KeptStudy, received: Dataset) -> tuple[Dataset, list[Unlike]]:
    """Return the last file, and how another one would be read differently. Raises Refusal."""
    last, how = _last_read(application, kept, dataset(application.engine, kept.dataset_id))
    was, now = how.sentences(), application.readings.of(received).how.sentences()
    said = {
        name: tuple(plain(part[name], Nouns()) if name in part else "" for part in (was, now))
        for name in {**was, **now}
    }
    return last, [Unlike(*texts) for texts in said.values() if texts[0] != texts[1]]


def _last_read(application: Application, kept: KeptStudy, own: Dataset) -> tuple[Dataset, HowRead]:
    """Return the last received file and its settings, without answers about its rows."""
    assert kept.study.id is not None
    taking = taking_of(application.engine, kept.study.id, kept.dataset_id)
    if taking is None:
        return own, how_read(kept.ledger, own)
    how = HowRead.model_validate_json(taking.how)
    left = tuple(question for question in how.settled if not question.key.startswith(KEY))
    times = () if len(left) < len(how.settled) else how.values.times
    how = how.model_copy(update={"settled": left, "values": how.values.model_copy(update={"times": times})})
    return dataset(application.engine, taking.received_id), how


def _read(application: Application, kept: KeptStudy, own: Dataset, received: Dataset) -> BroughtIn:
    """Read new rows as last time if that reads them all, else as detected. Raises Refusal."""
    last, how = _last_read(application, kept, own)
    try:
        as_before = application.readings.of(received, how)
        if reads_all(as_before):
            return on_clock_of(as_before, application.readings, received, last)
        understood = _understood(application, received)
        better = understood is not None and measured(understood) > measured(as_before)
        return understood if understood is not None and better and _fits(understood.how, how) else as_before
    except Refusal as refusal:
        understood = _understood(application, received)
        if understood is not None and (
            _fits(understood.how, how) or _partly(application, understood, own, how_read(kept.ledger, own))
        ):
            # the same columns in another form of file, dates written in another way, or some columns more or less
            return understood
        raise Refusal(
            f"“{received.name}” cannot be read as “{last.name}” is. {refusal.what}",
            place=refusal.place,
            todo="Choose a file of the same kind, or bring this one in as a study of its own.",
        ) from None


def _understood(application: Application, received: Dataset) -> BroughtIn | None:
    try:
        return application.readings.of(received)
    except Refusal:
        return None


def _partly(application: Application, came: BroughtIn, own: Dataset, own_how: HowRead) -> bool:
    """Return whether the new table has any number column of the study, in rows with the same structure."""
    if came.how.values.kind is not own_how.values.kind or (came.how.series.column is None) != (
        own_how.series.column is None
    ):
        return False
    names = other_names(came, application.readings.of(own, own_how))
    return any(names.get(name, name) in own_how.values.columns for name in came.how.values.columns)


def _fits(found: HowRead, wanted: HowRead) -> bool:
    return (
        found.dates.column == wanted.dates.column
        and found.series == wanted.series
        and found.values.kind == wanted.values.kind
        and set(wanted.values.columns) <= set(found.values.columns)
        and not wanted.keep
    )


def _intake(ledger: Ledger, brought: BroughtIn) -> HowRead:
    """Return the intake settings for the merged table, with earlier answers."""
    before = ledger.intake.settled if ledger.intake else ()
    answered = tuple(question for question in brought.how.settled if question.key.startswith(KEY))
    kept = tuple(question for question in before if not question.key.startswith(KEY))
    return brought.how.model_copy(update={"settled": (*kept, *answered)})


def _name_of_both(own: Dataset, received: Dataset) -> str:
    first = PurePath(own.name).name.split(", with ")[0]
    return f"{PurePath(first).stem}, with {PurePath(received.name).stem}.parquet"[:200]
