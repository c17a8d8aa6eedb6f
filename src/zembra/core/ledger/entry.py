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
    """The groups of entries, in the order in which they run."""

    SOURCE = "source"
    CALENDAR = "calendar"
    REPAIRS = "repairs"
    READINGS = "readings"
    PROJECTIONS = "projections"


class Needs(StrEnum):
    """How many lines an entry must see at once.

    LINE: one.
    SUMS: sums of several, which can be combined from parts.
    ALL: all of them.
    """

    LINE = "line"
    SUMS = "sums"
    ALL = "all"


class Entry(Sentence):
    """The parameters of an entry, and its method.

    kind: name in ledgers and in the API
    title, hint: texts of a menu
    once: whether a ledger holds exactly one
    rank: place among the kinds of its group
    made_in: package and version that provide the kind, empty for built-in kinds
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
        """Convert parameters that another version of the package wrote.

        made_in: that version
        """
        return params

    def apply(self, state: State, entry_id: str) -> Outcome:
        """Return what this entry adds to the state. Pure. Raises Refusal.

        entry_id: id of the entry in its ledger
        """
        raise NotImplementedError

    @property
    def needs(self) -> Needs:
        """How many lines the entry must see at once. An entry that needs all of them cannot run in parts."""
        return Needs.LINE

    @classmethod
    def suggest(cls, state: State) -> Entry:
        """Return the entry as it is first offered for a study."""
        return cls()
