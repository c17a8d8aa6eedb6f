"""Background work in progress."""

from __future__ import annotations

from pydantic import BaseModel


class WorkView(BaseModel):
    """Background work.

    stage: waiting, working, done, stopped or failed
    doing: current step
    share: 0 to 1
    failure: error
    notices: remarks on its result
    """

    key: str
    stage: str
    doing: str
    share: float
    failure: str | None
    notices: list[str]
