"""List the periods of a study to follow up, and note things about them."""

from __future__ import annotations

import numpy as np
from flask import Response
from flask_openapi3 import Tag

from zembra.api.application import application
from zembra.api.models.followup import FollowUpItem, FollowUpView, NoteRequest
from zembra.api.models.problem import Problem
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import finite
from zembra.core.errors import Refusal
from zembra.core.figure.parts.base import milliseconds
from zembra.core.ledger.run import Result
from zembra.core.study.followup import Item, Noted, State, counts, follow_up
from zembra.store.notes import NewestNotes, keep_notes, kept_notes, redo_note, undo_note
from zembra.store.studies import kept_study
from zembra.store.watching import called_for

blueprint = Resource(
    "followup",
    __name__,
    url_prefix="/api/studies/<int:study_id>/follow-up",
    abp_tags=[Tag(name="follow-up")],
    abp_responses={404: Problem, 422: Problem},
)


@blueprint.get("", summary="The follow-up list", responses={200: FollowUpView})
def listed(path: StudyPath) -> Response:
    return _answer(path.study_id, kept_notes(application().engine, path.study_id))


@blueprint.put("", summary="Note something of a period, or put it on the list", responses={200: FollowUpView})
def note(path: StudyPath, body: NoteRequest) -> Response:
    engine = application().engine
    result = _run(path.study_id)
    notes = kept_notes(engine, path.study_id)
    key = (body.series, body.period)
    before = next((noted for noted in notes.noted if (noted.series, noted.period) == key), Noted(*key))
    called = called_for(engine, path.study_id)
    item = next(
        (noted for noted in follow_up(result, notes.noted, called) if (noted.series, noted.period) == key), None
    )
    if item is None and not body.by_hand:
        raise Refusal(
            "That period is not on the list.", place=f"{body.series}, {body.period}", todo="Put it there first."
        )
    if item is None:
        _check(result, body)
    changed = Noted(
        body.series,
        body.period,
        before.note if body.note is None else body.note.strip(),
        before.state if body.state is None else body.state,
        before.who if body.who is None else body.who.strip(),
        before.by_hand or bool(body.by_hand),
        ", ".join(item.found_by) if item and item.found_by else before.found_by,
        item.value if item else before.value,
        item.distance if item else before.distance,
    )
    return _answer(path.study_id, keep_notes(engine, path.study_id, [changed]), result)


@blueprint.post("/undo", summary="Take back the newest note", responses={200: FollowUpView})
def undo(path: StudyPath) -> Response:
    return _answer(path.study_id, undo_note(application().engine, path.study_id))


@blueprint.post("/redo", summary="Note again what was taken back", responses={200: FollowUpView})
def redo(path: StudyPath) -> Response:
    return _answer(path.study_id, redo_note(application().engine, path.study_id))


def _run(study_id: int) -> Result:
    return application().runs.run(kept_study(application().engine, study_id), patience=0).result


def _check(result: Result, body: NoteRequest) -> None:
    """Raise Refusal for an unknown period."""
    line = next((known for known in result.state.lines if known.name == body.series), None)
    if line is None:
        raise Refusal(f"There is no series named “{body.series}” in this study.")
    number = result.state.grain.parse(body.period)
    if number not in line.periods:
        raise Refusal(f"{body.series} has no such period.", place=body.period)


def _answer(study_id: int, notes: NewestNotes, result: Result | None = None) -> Response:
    result = result or _run(study_id)
    items = follow_up(result, notes.noted, called_for(application().engine, study_id))
    count = counts(items)
    return reply(
        FollowUpView(
            items=[_item(item, result) for item in items],
            open=count[State.OPEN],
            asked=count[State.ASKED],
            explained=count[State.EXPLAINED],
            can_undo=notes.can_undo,
            can_redo=notes.can_redo,
        )
    )


def _item(item: Item, result: Result) -> FollowUpItem:
    at = None
    if item.number is not None:
        (at,) = milliseconds(np.array([item.number]), result.state.expected)

    return FollowUpItem(
        series=item.series,
        period=item.period,
        at=at,
        value=finite(item.value),
        distance=finite(item.distance),
        found_by=list(item.found_by),
        note=item.note,
        state=item.state,
        who=item.who,
        changed=item.changed,
        gone=item.gone,
    )
