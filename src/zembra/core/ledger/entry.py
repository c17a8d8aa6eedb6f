"""What a ledger entry is, and the registry of their kinds.

An entry kind is one module in `entries`: a frozen Pydantic model whose fields are the words of its
sentence, decorated with @register. Ledger, sentence, method note, API, documentation and command
line follow from it.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from functools import cache
from importlib import import_module
from threading import RLock
from types import MappingProxyType
from typing import Any, ClassVar, TypeVar

from zembra.core.grammar import Sentence
from zembra.core.ledger.ofpackages import kinds_of_packages
from zembra.core.ledger.state import Outcome, State


class Group(StrEnum):
    """The five groups of entries, in the order in which they run."""

    SOURCE = "source"
    CALENDAR = "calendar"
    REPAIRS = "repairs"
    READINGS = "readings"
    PROJECTIONS = "projections"


class Needs(StrEnum):
    """What an entry must see at once. LINE: one line. SUMS: of several lines, put together part by part. ALL: all of them."""

    LINE = "line"
    SUMS = "sums"
    ALL = "all"


class Entry(Sentence):
    """The parameters of one entry, and what it does.

    kind: name in ledgers and the API. title, hint: what a menu shows. once: a ledger holds exactly one.
    rank: place among the kinds of its group, in the order in which analysts work. made_in: the package that brings it with its version,
    empty for those of Zembra; told by whoever finds it.
    """

    kind: ClassVar[str]
    group: ClassVar[Group]
    title: ClassVar[str]
    hint: ClassVar[str]
    once: ClassVar[bool] = False
    rank: ClassVar[int] = 0
    made_in: ClassVar[str] = ""

    @classmethod
    def upgraded(cls, params: Mapping[str, Any], made_in: str) -> Mapping[str, Any]:
        """Words that another version of its package has kept, as this one has them. made_in: that version."""
        return params

    def apply(self, state: State, entry_id: str) -> Outcome:
        """What this entry adds to the state. Pure. entry_id: the entry's id. Raises Refusal."""
        raise NotImplementedError

    @property
    def needs(self) -> Needs:
        """What it must see at once; where that is all lines, a ledger of very many cannot have it."""
        return Needs.LINE

    @classmethod
    def suggest(cls, state: State) -> Entry:
        """The entry as first offered for a study in this state."""
        return cls()


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
    """All entry kinds by name, in the order of their groups and ranks."""
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
