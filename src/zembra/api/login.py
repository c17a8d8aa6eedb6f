"""Log in with one key: the page asks for it once and then holds a session."""

from __future__ import annotations

import math
import secrets
from dataclasses import dataclass
from html import escape

from flask import Flask, Response, g, redirect, request
from sqlalchemy import Engine
from werkzeug.wrappers import Response as Answer

from zembra.api.guard import KEEPS_NOTHING, SAFE, forbidden
from zembra.api.login_throttle import LoginThrottle
from zembra.api.models.problem import Problem
from zembra.api.problems import answer
from zembra.api.watching import NEWS
from zembra.store.actor import acting, own_session, read_only
from zembra.store.logins import HOLDS, begin_login, end_login, login_of
from zembra.store.people import person_with
from zembra.store.tables import Person

COOKIE = "zembra_login"
LOGIN, LOGOUT = "/login", "/logout"
END_SESSION = "keeping.end_session"
_OPEN = frozenset({LOGIN, "/mark.svg"})


def register_login(app: Flask, owner_key: str, engine: Engine) -> None:
    """Require a key: programs send it as a bearer token, pages once.

    owner_key: empty if only people have keys
    """
    guesses = LoginThrottle()
    seen = app.extensions["zembra"].seen

    def is_owners(key: str) -> bool:
        return bool(owner_key) and secrets.compare_digest(key.encode(), owner_key.encode())

    def whose(key: str) -> _Known | None:
        if is_owners(key):
            return _Known(None)
        person = person_with(engine, key)
        return None if person is None else _Known(person)

    def by_token() -> _Known | Response | None:
        sent = request.headers.get("Authorization", "")
        if not sent.startswith("Bearer "):
            return None
        token = sent.removeprefix("Bearer ")
        # a person's key cannot be guessed, so its holder never waits for others at the same address
        person = person_with(engine, token)
        if person is not None:
            return _Known(person)
        if (wait := guesses.wait(_client())) > 0:
            return _wait(wait)
        if not is_owners(token):
            guesses.wrong(_client())
            return None
        guesses.right(_client())
        return _Known(None)

    @app.before_request
    def check() -> Response | Answer | None:
        # authenticated clients never wait
        found = login_of(engine, request.cookies.get(COOKIE, ""), owner_key)
        g.login = found[0] if found else None
        if found:
            seen.note(found[0].id or 0)
        known = _Known(found[1]) if found else None
        acting.set("")
        g.person = None
        if request.path in _OPEN or request.path.startswith(NEWS):
            return None
        if known is None:
            identity = by_token()
            if isinstance(identity, Response):
                return identity
            known = identity
        if known is not None:
            return _let_in(known.person)
        if request.path.startswith("/api/"):
            detail = "This Zembra answers only who has its key."
            return answer(Problem(type="/problems/key", title="The key is needed", status=401, detail=detail))
        return _page("", request.full_path.rstrip("?"))

    def login() -> Response | Answer:
        onward = _own_path(request.values.get("onward", "/"))
        if request.method == "GET":
            return _page("", onward)
        if (wait := guesses.wait(_client())) > 0:
            return _page(f"Wait {math.ceil(wait)} s before the next try.", onward, 429)
        key = request.form.get("key", "")
        if whose(key) is None:
            guesses.wrong(_client())
            return _page("That is not the key.", onward, 403)
        guesses.right(_client())
        with own_session():
            token = begin_login(engine, key, request.headers.get("User-Agent", ""))
        response = redirect(onward, 303)
        response.set_cookie(
            COOKIE,
            token,
            max_age=int(HOLDS.total_seconds()),
            httponly=True,
            samesite="Strict",
            secure=request.is_secure,
        )
        return response

    def logout() -> Answer:
        if g.login is not None:
            with own_session():
                end_login(engine, g.login.id)
        response = redirect(LOGIN, 303)
        response.delete_cookie(COOKIE)
        return response

    app.add_url_rule(LOGIN, "login", login, methods=["GET", "POST"])
    app.add_url_rule(LOGOUT, "logout", logout, methods=["POST"])


@dataclass(frozen=True, slots=True)
class _Known:
    """Somebody with a key.

    person: None for the owner
    """

    person: Person | None


def _let_in(person: Person | None) -> Response | None:
    """Continue in their name, with their rights."""
    acting.set(person.name if person else "")
    g.person = person
    if person is not None and not person.may_change:
        read_only.set(True)
    if person is None or person.may_change or request.method in SAFE or KEEPS_NOTHING.search(request.path):
        return None
    if request.endpoint == END_SESSION:  # which ends only their own
        return None
    return forbidden("You may look at what is kept, and change nothing.")


def _client() -> str:
    return request.remote_addr or ""


def _wait(seconds: float) -> Response:
    detail = f"The key was wrong too often; it is looked at again in {math.ceil(seconds)} s."
    response = answer(Problem(type="/problems/key", title="Wait", status=429, detail=detail))
    response.headers["Retry-After"] = str(math.ceil(seconds))
    return response


def _own_path(path: str) -> str:
    """Return a redirect target within this application."""
    own = path.isprintable() and path.startswith("/") and not path.startswith(("//", "/\\"))
    return path if own else "/"


def _page(said: str, onward: str, status: int = 401) -> Response:
    alert = f'<p role="alert">{escape(said)}</p>' if said else ""
    return Response(
        _PAGE.format(alert=alert, onward=escape(onward, quote=True)),
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
  {alert}
  <input type="hidden" name="onward" value="{onward}">
  <input type="password" name="key" aria-label="Key" autocomplete="current-password" autofocus required>
  <button>Come in</button>
</form>
</html>
"""
