"""The base class of ledger entries.

An entry kind is one module in `entries`: a frozen Pydantic model whose fields are the words of its
sentence, decorated with @register. Ledger, sentence, method note, API, documentation and command
line follow from it.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import Any, ClassVar

from zembra.core.grammar import Sentence
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
