"""Decide who may use the API: this machine under a loopback name, or anybody with the key, from our own pages only."""

from __future__ import annotations

import re
from urllib.parse import urlsplit

from flask import Flask, Request, Response, request

from zembra.api.models.problem import Problem
from zembra.api.problems import answer
from zembra.store.actor import acting, read_only

LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})
SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
# the component library writes its styles into the page; scripts come from files only
POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self' data:; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
# what is asked for by other methods, and changes nothing that is kept
KEEPS_NOTHING = re.compile(
    r"/(preview|understanding|suggestion|used|check|login|logout|judging|judging/series)$|/handover/[^/]+$|^/api/work/"
)
_HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    # without one, browsers would send “Origin: null” with our forms
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def register_guard(app: Flask, *, any_host: bool = False, read_only_home: bool = False) -> None:
    """Refuse foreign hosts and pages, and set security headers.

    any_host: a key protects instead, under any host name
    read_only_home: whether nothing may be changed
    """

    @app.before_request
    def check() -> Response | None:
        read_only.set(read_only_home or request.method in SAFE)
        if not any_host and not _our_host(request):
            return forbidden(
                "Zembra answers on this machine only, at http://127.0.0.1 or http://localhost and its port."
            )
        if request.method not in SAFE and not _our_page(request):
            return forbidden("Another web page tried to change something in Zembra; nothing was changed.")
        # even GET requests may start expensive work
        if request.path.startswith("/api/") and not _our_page(request):
            return forbidden("Another web page asked for something in Zembra; nothing was told.")
        if read_only_home and request.method not in SAFE and not KEEPS_NOTHING.search(request.path):
            return forbidden("This home may only be read: it can be looked at, and nothing is kept.")
        return None

    @app.teardown_request
    def ended(_: BaseException | None) -> None:
        # the thread will serve other requests or background work
        read_only.set(False)
        acting.set("")

    @app.after_request
    def guard(reply: Response) -> Response:
        reply.headers.update(_HEADERS)
        if request.path.startswith("/api/"):
            reply.headers["Cache-Control"] = "no-store"
        return reply


def _our_host(asked: Request) -> bool:
    """Return whether the host name is ours; another site could point its name here (DNS rebinding)."""
    name, port = _host_and_port(f"//{asked.host}")
    return name in LOOPBACK and str(port or 80) == str(asked.environ.get("SERVER_PORT", port or 80))


def _our_page(asked: Request) -> bool:
    """Return whether the request comes from our pages; only browsers say."""
    if asked.headers.get("Sec-Fetch-Site", "same-origin") not in ("same-origin", "none"):
        return False
    origin = asked.headers.get("Origin")
    return origin is None or origin == f"{asked.scheme}://{asked.host}"


def _host_and_port(address: str) -> tuple[str | None, int | None]:
    try:
        parts = urlsplit(address)
        return parts.hostname, parts.port
    except ValueError:
        return None, None


def forbidden(detail: str) -> Response:
    return answer(Problem(type="/problems/forbidden", title="Not allowed", status=403, detail=detail))
