"""Every error as RFC 9457 problem details with a plain sentence. Nothing else ever leaves."""

from __future__ import annotations

import logging

from flask import Flask, Response
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge

from zembra.api.models import Problem
from zembra.background import Busy
from zembra.core.errors import Refusal
from zembra.core.ledger.model import first_fault
from zembra.store.errors import Damaged, NotKept, Stale

log = logging.getLogger(__name__)


def answer(problem: Problem) -> Response:
    return Response(
        problem.model_dump_json(exclude_none=True), status=problem.status, mimetype="application/problem+json"
    )


def register_problems(app: Flask, limit_mb: int) -> None:
    @app.errorhandler(Refusal)
    def refused(error: Refusal) -> Response:
        return answer(
            Problem(
                type="/problems/refused",
                title="Not taken",
                status=422,
                detail=error.what,
                place=error.place,
                todo=error.todo,
            )
        )

    @app.errorhandler(Busy)
    def busy(error: Busy) -> Response:
        return answer(
            Problem(
                type="/problems/busy",
                title="Not done yet",
                status=503,
                detail=error.what,
                place=error.place,
                todo=error.todo,
            )
        )

    @app.errorhandler(NotKept)
    def not_kept(error: NotKept) -> Response:
        return answer(Problem(type="/problems/not-kept", title="Not found", status=404, detail=str(error.args[0])))

    @app.errorhandler(Damaged)
    def damaged(error: Damaged) -> Response:
        return answer(
            Problem(
                type="/problems/damaged",
                title="The study cannot be read",
                status=422,
                detail=f"The study “{error.name}” cannot be read: {error.why}.",
                todo="Its file is kept: a new study can be begun from it.",
            )
        )

    @app.errorhandler(Stale)
    def stale(error: Stale) -> Response:
        return answer(
            Problem(
                type="/problems/stale",
                title="The study has moved on",
                status=409,
                detail=f"The study has moved on to revision {error.head} ({error.what}) since this edit was begun.",
                todo="Look at the newer revision; what you typed is kept on this screen until you decide.",
                head=error.head,
                what=error.what,
            )
        )

    @app.errorhandler(RequestEntityTooLarge)
    def too_large(_error: RequestEntityTooLarge) -> Response:
        return answer(
            Problem(
                type="/problems/too-large",
                title="Too large",
                status=413,
                detail=f"The file is larger than {limit_mb} MB, the most this Zembra takes.",
                todo="Cut the file, or raise ZEMBRA_MAX_UPLOAD_MB and start Zembra again.",
            )
        )

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        return answer(
            Problem(
                type="about:blank",
                title=error.name,
                status=error.code or 500,
                detail=error.description or error.name,
            )
        )

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        log.exception("unexpected error", exc_info=error)
        return answer(
            Problem(
                type="/problems/unexpected",
                title="Zembra made a mistake",
                status=500,
                detail="Something went wrong inside Zembra; nothing of yours was changed. The log has the details.",
            )
        )


def invalid_request(error: ValidationError) -> Response:
    """What flask-openapi3 calls for a body that does not fit its model."""
    return answer(
        Problem(
            type="/problems/invalid",
            title="Not understood",
            status=422,
            detail=first_fault(error),
            place=" / ".join(str(part) for part in error.errors()[0]["loc"]),
        )
    )
