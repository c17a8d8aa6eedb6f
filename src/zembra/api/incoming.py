"""Stream uploads to temporary files beside the database, and delete them once they are read."""

from __future__ import annotations

import re
import secrets
import tempfile
from pathlib import Path
from typing import IO

from flask import Flask, Request, Response, request
from flask_openapi3 import FileStorage

from zembra.api.models.problem import Problem
from zembra.api.problems import answer
from zembra.service.reading import check_json_memory
from zembra.store.home import Home

SMALL_BODY = 1_000_000  # bytes of JSON that are taken without being weighed
MOST_BODY = 16_000_000
PREFIX = "file-"
# one of a pair of surrogates without the other
_HALF = re.compile(
    rb"\\u[dD][89abAB][0-9a-fA-F]{2}(?!\\u[dD][c-fC-F][0-9a-fA-F]{2})"
    rb"|(?<!\\u[dD][89abAB][0-9a-fA-F]{2})\\u[dD][c-fC-F][0-9a-fA-F]{2}"
)


def register_incoming(app: Flask, home: Home) -> None:
    """Stream uploads to the home, and refuse JSON that needs too much memory."""

    class Incoming(Request):
        def _get_file_stream(
            self,
            total_content_length: int | None,
            content_type: str | None,
            filename: str | None = None,
            content_length: int | None = None,
        ) -> IO[bytes]:
            home.incoming.mkdir(parents=True, exist_ok=True, mode=0o700)
            return tempfile.NamedTemporaryFile("rb+", dir=home.incoming, prefix=PREFIX)

    app.request_class = Incoming

    @app.before_request
    def weigh() -> Response | None:
        length = request.content_length or 0
        if not request.is_json:
            return None
        if length > MOST_BODY:
            detail = f"What was sent has {length // 1_000_000} MB, more than {MOST_BODY // 1_000_000}, the most that is no file."
            return answer(Problem(type="/problems/too-large", title="Too large", status=413, detail=detail))
        if length > SMALL_BODY:
            check_json_memory(request.get_data())
        if _HALF.search(request.get_data()):
            detail = "A text holds half a character, which can be written nowhere."
            return answer(Problem(type="/problems/invalid", title="Not understood", status=422, detail=detail))
        return None


def taken(file: FileStorage, home: Home) -> Path:
    """Return the uploaded file, which the caller must delete."""
    path = home.incoming / f"{PREFIX}{secrets.token_hex(8)}"
    file.stream.flush()
    try:
        path.hardlink_to(file.stream.name)
    except OSError:  # not every file system has a second name for a file
        file.save(path)
    return path
