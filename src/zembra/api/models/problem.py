"""Problem details (RFC 9457)."""

from __future__ import annotations

from pydantic import BaseModel


class Problem(BaseModel):
    """RFC 9457 problem details. place: where; todo: what to do; head: the revision a stale study is at."""

    type: str
    title: str
    status: int
    detail: str
    place: str | None = None
    todo: str | None = None
    head: int | None = None
    what: str | None = None
