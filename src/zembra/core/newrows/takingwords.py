"""The sentence that says how new and old rows are merged."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from zembra.core.grammar import Choice, Sentence


class Taken(Choice):
    WHOLE = ("whole", "the whole table again")
    MORE = ("more", "only what is new")


class InBoth(Choice):
    NEW = ("new", "the new number counts")
    OLD = ("old", "the old one stays")
    LARGER = ("larger", "the larger one counts")


class NowBlank(Choice):
    EMPTY = ("empty", "are blank from now on")
    STAY = ("stay", "keep their number")


class NoLonger(Choice):
    STAY = ("stay", "stay as they were")
    GO = ("go", "go")


class TakingHow(Sentence):
    """How rows are merged.

    taken: what the new rows are
    both: which number wins where both have one
    blank: what happens to numbers that are blank now
    gone: what happens to periods that a whole table lacks
    """

    taken: Annotated[Taken, Field(title="what came")] = Taken.WHOLE
    both: Annotated[InBoth, Field(title="where a period is in both")] = InBoth.NEW
    blank: Annotated[NowBlank, Field(title="numbers that are blank now")] = NowBlank.EMPTY
    gone: Annotated[NoLonger, Field(title="periods that are gone")] = NoLonger.GO

    def template(self) -> str:
        gone = "; {@periods} that are gone from it {gone}" if self.taken is Taken.WHOLE else ""
        return (
            f"It is {{taken}}. Where {{@a_period}} is in both, {{both}}; numbers that are blank in it {{blank}}{gone}."
        )

    @property
    def replaces(self) -> bool:
        """Whether the new table replaces the old one."""
        return self == TakingHow()
