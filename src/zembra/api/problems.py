"""Answer every error with problem details (RFC 9457) and a plain sentence. No other error leaves the server."""

from __future__ import annotations

import logging

from flask import Flask, Response
from pydantic import ValidationError
from sqlalchemy.exc import DatabaseError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge

from zembra.api.models.problem import Problem
from zembra.core.errors import Refusal
from zembra.core.ledger.model import first_fault
from zembra.store.errors import Altered, Damaged, NotKept, Stale
from zembra.work.queue import Busy

log = logging.getLogger(__name__)
# what SQLite says, by the beginning of its name
_DATABASE = {
    "SQLITE_FULL": ("The disk is full.", "Make room on it, and do it again."),
    "SQLITE_READONLY": ("The database may only be read.", "Give yourself the right to write there, and do it again."),
    "SQLITE_CANTOPEN": ("The database cannot be opened.", "See that its folder is there and may be written."),
    "SQLITE_IOERR": ("The disk does not take or give what is asked of it.", "See whether it is full or broken."),
    "SQLITE_BUSY": ("Somebody else has been at work on the database for long.", "Do it again in a moment."),
    "SQLITE_CORRUPT": ("The database is damaged.", "Run zembra check, and put a backup back with zembra restore."),
    "SQLITE_NOTADB": ("The database is damaged.", "Run zembra check, and put a backup back with zembra restore."),
}


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
                detail=f"The study “{error.name}” cannot be read: {error.why}",
                todo="Its file is kept: a new study can be begun from it.",
            )
        )

    @app.errorhandler(Altered)
    def altered(error: Altered) -> Response:
        return answer(
            Problem(
                type="/problems/altered",
                title="The file is not as it was received",
                status=422,
                detail=f"The bytes of “{error.name}” are not those that were received (SHA-256); nothing is shown of them.",
                todo="Put a backup back with zembra restore, or bring the file in again.",
            )
        )

    @app.errorhandler(DatabaseError)
    def database(error: DatabaseError) -> Response:
        code = getattr(error.orig, "sqlite_errorname", "")
        explanation = next((explanation for name, explanation in _DATABASE.items() if code.startswith(name)), None)
        if "no such table" in str(error.orig) or "no such column" in str(error.orig):
            explanation = _DATABASE["SQLITE_CORRUPT"]
        if explanation is None:
            return unexpected(error)
        log.error("the database: %s", error.orig)
        detail, todo = explanation
        return answer(
            Problem(
                type="/problems/database",
                title="Not kept",
                status=503,
                detail=f"{detail} Nothing was changed.",
                todo=todo,
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

    @app.errorhandler(RecursionError)
    def too_deep(_error: RecursionError) -> Response:
        detail = "What was sent is nested too deeply."
        return answer(Problem(type="/problems/invalid", title="Not understood", status=422, detail=detail))

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
    """Answer a request that does not match its model."""
    return answer(
        Problem(
            type="/problems/invalid",
            title="Not understood",
            status=422,
            detail=first_fault(error),
            place=" / ".join(str(part) for part in error.errors()[0]["loc"]),
        )
    )
