"""Serve the built front end: compressed files, and one page for all client-side routes."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from flask import Flask, Response, request
from werkzeug.exceptions import NotFound
from werkzeug.wsgi import wrap_file
from whitenoise import WhiteNoise

WEB = Path(__file__).parent.parent / "web"
A_YEAR = 31_536_000
# the addresses of the front end's pages, as frontend/src/app/App.tsx has them
PAGES = (
    "/",
    "/intake",
    "/intake/:datasetId",
    "/studies/:studyId",
    "/studies/:studyId/all-series",
    "/studies/:studyId/projection",
    "/studies/:studyId/picture",
    "/studies/:studyId/snapshots/:snapshotId",
    "/studies/:studyId/new-rows",
    "/studies/:studyId/said",
    "/manual/:page?",
    "/keeping",
)
_PAGES = re.compile("|".join(re.sub(r"/:\w+", "/[^/]+", re.sub(r"/:\w+\?", "(/[^/]+)?", page)) for page in PAGES))


def register_front_end(app: Flask) -> None:
    """Serve the files through the application, so that the guard applies."""
    files = _files() if (WEB / "index.html").is_file() else {}

    def front_end(name: str = "") -> Response:
        file = files.get(f"/{name}")
        is_page = _PAGES.fullmatch(f"/{name}") is not None
        # browsers get the front end's not-found page; other probes get no page
        if file is None and not is_page and "text/html" not in request.headers.get("Accept", ""):
            raise NotFound(f"There is nothing at /{name}.")
        found = file or files.get("/index.html")
        if found is None:
            raise NotFound("The front end is not built. Run “make demo” or “make build”.")
        answer = found.get_response(request.method, request.environ)
        body: Any = b"" if answer.file is None else wrap_file(request.environ, answer.file)
        status = answer.status if file is not None or is_page else 404
        reply = Response(body, status=status, headers=list(answer.headers))
        if f"/{name}" not in files or name == "index.html":
            reply.headers["Cache-Control"] = "no-cache"
        return reply

    app.add_url_rule("/", "front_end", front_end)
    app.add_url_rule("/<path:name>", "front_end", front_end)


def _files() -> dict[str, Any]:
    def hashed(_: str, url: str) -> bool:
        """Return whether an asset name contains a hash, so that it never changes."""
        return url.startswith("/assets/")

    served = WhiteNoise(_nothing, root=WEB, prefix="/", max_age=60, immutable_file_test=hashed)
    files: dict[str, Any] = served.files
    return files


def _nothing(environ: Any, start_response: Any) -> list[bytes]:
    """The empty application behind the static files."""
    return []
