"""Feeds and watches of a study."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from zembra.api.models.evidence import SentenceView
from zembra.core.watching.watchwords import MOST_WATCHES


class FeedRequest(BaseModel):
    """words: of the sentence of a feed. key: null to leave the one that was given for the same place."""

    model_config = ConfigDict(extra="forbid")

    words: dict[str, Any]
    key: Annotated[str | None, Field(max_length=4000)] = None


class FeedView(SentenceView):
    """Where a study looks for new rows; as it is first offered where `connected` is false. keyed: whether a key was given.
    looked_at, due_at: the last look and the next. said: what the last one gave, trouble: what was wrong with it. file: rows
    that wait for a decision, null for none. work: key of the look that is under way."""

    connected: bool
    keyed: bool
    looked_at: str | None
    due_at: str | None
    said: str
    trouble: str
    file: int | None
    work: str | None


class WatchRequest(BaseModel):
    """watches: words of sentences, each with its kind. tell: of the sentence of who is told."""

    model_config = ConfigDict(extra="forbid")

    watches: Annotated[list[dict[str, Any]], Field(max_length=MOST_WATCHES)]
    tell: dict[str, Any] = {}


class CallView(BaseModel):
    """Something that needs a look. gone_at: since when it holds no more."""

    id: int
    kind: str
    series: str
    period: str
    text: str
    found_at: str
    gone_at: str | None


class WatchView(BaseModel):
    """What a study watches, and what that found. news: address of its Atom feed, null before it watches anything. unsaid: what
    could not be looked at; untold: who could not be told yet. looking: whether it looks just now. trouble: why it could not."""

    watches: list[SentenceView]
    tell: SentenceView
    findings: list[CallView]
    gone: list[CallView]
    unsaid: list[str]
    untold: list[str]
    news: str | None
    looking: bool
    trouble: str
