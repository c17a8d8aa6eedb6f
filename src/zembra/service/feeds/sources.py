"""The registry of source kinds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from zembra.core.feeds.feedwords import Address, AnySource, DatabaseTable, WatchedFolder
from zembra.service.feeds.database import address_of, file_of, selected
from zembra.service.feeds.fetched import FetchResult
from zembra.service.feeds.folder import next_file
from zembra.service.feeds.http import fetched, resolves_to_private


@dataclass(frozen=True, slots=True)
class SourceKind:
    """The functions of a kind of source; all raise Refusal.

    fetch: fetch(report, source, wanted) -> FetchResult, run in a child process
    place: what a key belongs to
    local_path: path on this machine, or None
    leads_to_private: whether it is local or in a private network
    """

    fetch: Callable[..., FetchResult]
    place: Callable[[Any], str]
    local_path: Callable[[Any], str | None] = lambda source: None
    leads_to_private: Callable[[Any], bool] = lambda source: False


SOURCES: dict[type[AnySource], SourceKind] = {
    Address: SourceKind(
        fetched,
        place=lambda source: f"{source.read().place} {source.header}",
        leads_to_private=lambda source: resolves_to_private(source.url),
    ),
    WatchedFolder: SourceKind(
        next_file, place=lambda source: str(source.folder), local_path=lambda source: str(source.folder)
    ),
    DatabaseTable: SourceKind(selected, place=lambda source: address_of(source).render_as_string(), local_path=file_of),
}


def kind_of(source: AnySource) -> SourceKind:
    return SOURCES[type(source)]
