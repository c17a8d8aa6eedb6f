"""Follow background work, and stop it."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import Tag
from werkzeug.exceptions import Forbidden

from zembra.api.application import application
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import WorkPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import work_view
from zembra.api.waiting import answer_of, answer_so_far
from zembra.store.actor import acting, read_only
from zembra.store.errors import NotKept
from zembra.work.queue import Work

blueprint = Resource(
    "work", __name__, url_prefix="/api/work", abp_tags=[Tag(name="work")], abp_responses={404: Problem, 422: Problem}
)


@blueprint.get("/<key>", summary="How far a piece of work is", responses={200: WorkView})
def state(path: WorkPath) -> Response:
    return reply(work_view(_work(path.key)))


@blueprint.get("/<key>/answer", summary="What a piece of work gave", responses={200: None, 201: None, 202: WorkView})
def answer(path: WorkPath) -> Response:
    return answer_of(_work(path.key))


@blueprint.get("/<key>/so-far", summary="What is known of the answer before it is whole", responses={200: None})
def so_far(path: WorkPath) -> Response:
    return answer_so_far(_work(path.key))


@blueprint.delete("/<key>", summary="Stop a piece of work", responses={200: WorkView})
def stop(path: WorkPath) -> Response:
    work = _own_work(path.key)
    application().queue.stop(path.key)
    work.finished.wait(2)
    return reply(work_view(work))


@blueprint.post("/<key>", summary="Begin again what was stopped", responses={200: WorkView})
def again(path: WorkPath) -> Response:
    known = _own_work(path.key)
    return reply(work_view(application().queue.again(path.key) or known))


def _own_work(key: str) -> Work:
    """Return work that the requester may stop and restart: readers only their own."""
    work = _work(key)
    if read_only.get() and work.who != acting.get():
        raise Forbidden("Somebody else began that work, and you may look only.")
    return work


def _work(key: str) -> Work:
    work = application().queue.get(key)
    if work is None:
        raise NotKept("That work is not known any more.")
    return work
