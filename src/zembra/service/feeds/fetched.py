"""Requests to and results of a source."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from zembra.core.errors import Refusal


@dataclass(frozen=True, slots=True)
class Fetched:
    """name: of the file. data: its bytes as they came. cursor: from where the next look goes on."""

    name: str
    data: bytes
    cursor: str


@dataclass(frozen=True, slots=True)
class FetchResult:
    """What a look at a source gives. file: None where nothing new came. cursor: from where the next look goes on."""

    file: Fetched | None
    cursor: str


@dataclass(frozen=True, slots=True)
class FetchRequest:
    """What is asked for. since: the newest day that is there, None where there is none. cursor: where the last look got to,
    empty where everything is wanted. key: of the source. most: bytes. private: whether the source may be on this machine or in a private network."""

    since: date | None
    cursor: str
    key: str
    most: int
    private: bool = False

    @property
    def megabytes(self) -> int:
        return self.most // 1_000_000


class Passing(Refusal):
    """What may be over when it is tried again."""
