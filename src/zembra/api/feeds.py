"""Connect a study to a feed, fetch new rows, and dismiss them."""

from __future__ import annotations

from typing import Any

from flask import Response
from flask_openapi3 import Tag
from pydantic import ValidationError

from zembra.api.application import application
from zembra.api.models.evidence import SentenceView
from zembra.api.models.feeds import FeedRequest, FeedView
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import sentence_view
from zembra.api.waiting import answer_of
from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import FeedHow
from zembra.core.grammar import Nouns
from zembra.core.ledger.model import first_fault
from zembra.service.feeds.feedlook import connected, leave, place_of
from zembra.service.feeds.schedule import begin_look, look_under_way
from zembra.store.feeds import disconnect_feed, feed_of, words_of_feed
from zembra.store.studies import kept_study

blueprint = Resource(
    "feeds",
    __name__,
    url_prefix="/api/studies/<int:study_id>/feed",
    abp_tags=[Tag(name="feeds")],
    abp_responses={404: Problem, 422: Problem},
)


@blueprint.get("", summary="Where a study looks for new rows", responses={200: FeedView})
def feed(path: StudyPath) -> Response:
    kept_study(application().engine, path.study_id)
    return _answer(path.study_id)


@blueprint.put("", summary="Have a study look somewhere for new rows", responses={200: FeedView})
def connect(path: StudyPath, body: FeedRequest) -> Response:
    connected(application(), path.study_id, _words(body.words), body.key)
    return _answer(path.study_id)


@blueprint.post("/preview", summary="The sentence of a feed, unsaved", responses={200: SentenceView})
def preview(path: StudyPath, body: FeedRequest) -> Response:
    return reply(sentence_view(_words(body.words), Nouns()))


@blueprint.delete("", summary="Look nowhere any more", responses={200: FeedView})
def disconnect(path: StudyPath) -> Response:
    disconnect_feed(application().engine, path.study_id)
    application().keyring.put(path.study_id, "", "")
    return _answer(path.study_id)


@blueprint.post("/look", summary="Look for new rows now", responses={200: FeedView, 202: WorkView})
def look_now(path: StudyPath) -> Response:
    kept_study(application().engine, path.study_id)
    return answer_of(begin_look(application(), path.study_id, asked=True, answer=lambda _: _answer(path.study_id)))


@blueprint.post("/leave", summary="Leave what came, as it is", responses={200: FeedView})
def leave_it(path: StudyPath) -> Response:
    leave(application(), path.study_id)
    return _answer(path.study_id)


def _words(words: dict[str, Any]) -> FeedHow:
    try:
        return FeedHow.model_validate(words)
    except ValidationError as error:
        raise Refusal(f"Where to look for new rows cannot be read: {first_fault(error)}") from None


def _answer(study_id: int) -> Response:
    kept = feed_of(application().engine, study_id)
    words = words_of_feed(kept) if kept else FeedHow()
    work = look_under_way(application(), study_id)
    return reply(
        FeedView(
            **dict(sentence_view(words, Nouns())),
            connected=kept is not None,
            keyed=kept is not None and bool(application().keyring.get(study_id, place_of(words))),
            looked_at=kept.looked_at.isoformat() if kept and kept.looked_at else None,
            due_at=kept.due_at.isoformat() if kept and kept.due_at else None,
            said=kept.said if kept else "",
            trouble=kept.trouble if kept else "",
            file=kept.received_id if kept else None,
            work=work.key if work else None,
        )
    )
