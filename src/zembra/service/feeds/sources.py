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
    """fetch: gets what there is, in a child process: fetch(report, source, wanted) -> FetchResult. place: what a key is given for, and
    goes nowhere else. local_path: the path on this machine that it reads, None for none. leads_to_private: whether it leads to this
    machine or a private network. All raise Refusal.
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
