"""Problem details (RFC 9457)."""

from __future__ import annotations

from pydantic import BaseModel


class Problem(BaseModel):
    """Problem details (RFC 9457).

    place: where; todo: what to do; head: current revision of a stale study
    """

    type: str
    title: str
    status: int
    detail: str
    place: str | None = None
    todo: str | None = None
    head: int | None = None
    what: str | None = None
