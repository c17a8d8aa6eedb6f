"""Background work in progress."""

from __future__ import annotations

from pydantic import BaseModel


class WorkView(BaseModel):
    """Work in the background. stage: waiting, working, done, stopped or failed. doing: what it is at. share:
    how far, 0 to 1. failure: what went wrong. notices: what is to be said of what it gave."""

    key: str
    stage: str
    doing: str
    share: float
    failure: str | None
    notices: list[str]
