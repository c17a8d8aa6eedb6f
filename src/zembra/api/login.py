"""One key for whoever may use this Zembra: asked for once by the page, kept as a signed cookie."""

from __future__ import annotations

import secrets
import time
from html import escape
from threading import Lock
from urllib.parse import urlsplit

from flask import Flask, Response, redirect, request
from itsdangerous import BadSignature, URLSafeTimedSerializer
from werkzeug.wrappers import Response as Answer

from zembra.api.models import Problem
from zembra.api.problems import answer

COOKIE = "zembra_login"
HOLDS = 30 * 24 * 3600  # seconds
AFTER_A_MISS = 1.0  # seconds in which no key is looked at after a wrong one
LOGIN = "/login"
_OPEN = frozenset({LOGIN, "/mark.svg"})


def register_login(app: Flask, key: str) -> None:
    """Ask for the key before anything is answered: programs send it as a bearer token, the page once."""
    signer = URLSafeTimedSerializer(key, salt="zembra login")
    misses = _Misses()

    @app.before_request
    def check() -> Response | Answer | None:
        if request.path in _OPEN or _has_cookie(signer) or _has_token(key):
            return None
        if request.path.startswith("/api/"):
            detail = "This Zembra answers only who has its key."
            return answer(Problem(type="/problems/key", title="The key is needed", status=401, detail=detail))
        return _page("", request.full_path.rstrip("?"))

    def login() -> Response | Answer:
        onward = _own_path(request.values.get("onward", "/"))
        if request.method == "GET":
            return _page("", onward)
        if misses.too_soon():
            return _page("Wait a moment before the next try.", onward, 429)
        if not secrets.compare_digest(request.form.get("key", "").encode(), key.encode()):
            misses.note()
            return _page("That is not the key.", onward, 403)
        told = redirect(onward, 303)
        told.set_cookie(
            COOKIE,
            str(signer.dumps("in")),
            max_age=HOLDS,
            httponly=True,
            samesite="Strict",
            secure=request.is_secure,
        )
        return told

    app.add_url_rule(LOGIN, "login", login, methods=["GET", "POST"])


class _Misses:
    """When a key was last wrong. Safe across threads."""

    def __init__(self) -> None:
        self._last = -AFTER_A_MISS
        self._lock = Lock()

    def too_soon(self) -> bool:
        with self._lock:
            return time.monotonic() - self._last < AFTER_A_MISS

    def note(self) -> None:
        with self._lock:
            self._last = time.monotonic()


def _has_cookie(signer: URLSafeTimedSerializer) -> bool:
    try:
        return bool(signer.loads(request.cookies.get(COOKIE, ""), max_age=HOLDS) == "in")
    except BadSignature:
        return False


def _has_token(key: str) -> bool:
    told = request.headers.get("Authorization", "")
    return told.startswith("Bearer ") and secrets.compare_digest(told.removeprefix("Bearer ").encode(), key.encode())


def _own_path(path: str) -> str:
    """Where to go on to: within this application only."""
    parts = urlsplit(path)
    own = path.startswith("/") and not path.startswith(("//", "/\\")) and not parts.scheme and not parts.netloc
    return path if own else "/"


def _page(said: str, onward: str, status: int = 401) -> Response:
    told = f'<p role="alert">{escape(said)}</p>' if said else ""
    return Response(
        _PAGE.format(told=told, onward=escape(onward, quote=True)),
        status=status,
        mimetype="text/html",
        headers={"Cache-Control": "no-store"},
    )


_PAGE = """<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Zembra: the key</title>
<link rel="icon" href="/mark.svg">
<style>
  body {{ margin: 0; min-height: 100vh; display: grid; place-items: center; background: #f6f3ec; color: #23302f;
         font: 15px/1.5 system-ui, sans-serif; }}
  form {{ display: grid; gap: 12px; width: 320px; }}
  h1 {{ display: flex; gap: 10px; align-items: center; margin: 0; font-size: 20px; font-weight: 600; }}
  img {{ width: 26px; height: 26px; }}
  p {{ margin: 0; }}
  p[role=alert] {{ color: #9c3b1b; }}
  input, button {{ font: inherit; padding: 7px 10px; border: 1px solid #b9b3a3; border-radius: 4px; background: #fff; }}
  button {{ background: #1f5c5a; border-color: #1f5c5a; color: #fff; cursor: pointer; }}
  @media (prefers-color-scheme: dark) {{
    body {{ background: #172120; color: #e6e3da; }}
    input {{ background: #202c2b; border-color: #47534f; color: inherit; }}
    p[role=alert] {{ color: #f0a184; }}
  }}
</style>
<form method="post" action="/login">
  <h1><img src="/mark.svg" alt=""> Zembra</h1>
  <p>This Zembra is kept under a key. Whoever started it knows it.</p>
  {told}
  <input type="hidden" name="onward" value="{onward}">
  <input type="password" name="key" aria-label="Key" autocomplete="current-password" autofocus required>
  <button>Come in</button>
</form>
</html>
"""
