"""The registry of entry kinds, built in and third party."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from importlib import import_module
from threading import RLock
from types import MappingProxyType
from typing import TypeVar

from zembra.core.ledger.entry import Entry, Group
from zembra.core.ledger.ofpackages import kinds_of_packages

OWN_KINDS = "zembra.core.entries"  # loaded by name: the engine knows no entry kind
E = TypeVar("E", bound=type[Entry])
_KINDS: dict[str, type[Entry]] = {}
_LOCK = RLock()


def register(kind: E) -> E:
    if kind.kind in _KINDS:
        raise ValueError(f"two entry kinds are named {kind.kind}")
    _KINDS[kind.kind] = kind
    return kind


def kinds() -> Mapping[str, type[Entry]]:
    """Return all entry kinds by name, ordered by group and rank."""
    # registered once, however many threads ask first
    with _LOCK:
        return _all_kinds()


@cache
def _all_kinds() -> Mapping[str, type[Entry]]:
    import_module(OWN_KINDS)  # which registers them

    of_packages = {kind.kind: kind for kind in kinds_of_packages(Entry)}
    order = list(Group)
    return MappingProxyType(
        dict(
            sorted(
                {**of_packages, **_KINDS}.items(),
                key=lambda item: (order.index(item[1].group), item[1].rank, item[0]),
            )
        )
    )
