"""Requests to and results of a source."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from zembra.core.errors import Refusal


@dataclass(frozen=True, slots=True)
class Fetched:
    """A fetched file.

    cursor: where the next fetch continues
    """

    name: str
    data: bytes
    cursor: str


@dataclass(frozen=True, slots=True)
class FetchResult:
    """The result of a fetch.

    file: None if nothing new came
    cursor: where the next fetch continues
    """

    file: Fetched | None
    cursor: str


@dataclass(frozen=True, slots=True)
class FetchRequest:
    """A request to a source.

    since: newest known day, or None
    cursor: where the last fetch ended, empty for everything
    key: of the source
    most: maximum bytes
    private: whether local and private addresses are allowed
    """

    since: date | None
    cursor: str
    key: str
    most: int
    private: bool = False

    @property
    def megabytes(self) -> int:
        return self.most // 1_000_000


class Passing(Refusal):
    """An error that may pass when retried."""
