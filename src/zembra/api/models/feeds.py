"""Feeds and watches of a study."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from zembra.api.models.evidence import SentenceView
from zembra.core.watching.watchwords import MOST_WATCHES


class FeedRequest(BaseModel):
    """Request.

    words: of the feed sentence
    key: null keeps the one of the same place
    """

    model_config = ConfigDict(extra="forbid")

    words: dict[str, Any]
    key: Annotated[str | None, Field(max_length=4000)] = None


class FeedView(SentenceView):
    """A feed, or a suggested one if not `connected`.

    keyed: whether a key is stored
    looked_at, due_at: last and next fetch
    said: last outcome; trouble: last error
    file: waiting rows, or null
    work: key of the running fetch
    """

    connected: bool
    keyed: bool
    looked_at: str | None
    due_at: str | None
    said: str
    trouble: str
    file: int | None
    work: str | None


class WatchRequest(BaseModel):
    """Request.

    watches: sentences with their kinds
    tell: of the notification sentence
    """

    model_config = ConfigDict(extra="forbid")

    watches: Annotated[list[dict[str, Any]], Field(max_length=MOST_WATCHES)]
    tell: dict[str, Any] = {}


class CallView(BaseModel):
    """A finding.

    gone_at: since when it no longer holds
    """

    id: int
    kind: str
    series: str
    period: str
    text: str
    found_at: str
    gone_at: str | None


class WatchView(BaseModel):
    """The watches of a study, with findings.

    news: address of the Atom feed, or null
    unsaid: what could not be evaluated; untold: failed notifications
    looking: whether it is being evaluated
    trouble: error
    """

    watches: list[SentenceView]
    tell: SentenceView
    findings: list[CallView]
    gone: list[CallView]
    unsaid: list[str]
    untold: list[str]
    news: str | None
    looking: bool
    trouble: str
