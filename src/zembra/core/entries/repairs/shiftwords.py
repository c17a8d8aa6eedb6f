"""The common base of both entries for level shifts."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, field_validator

from zembra.core.calendar.lines import Line
from zembra.core.entries.repairs.follow import Follow
from zembra.core.grammar import Word
from zembra.core.ledger.lineentry import LineEntry
from zembra.core.ledger.shapes import Rule, shape_id
from zembra.core.ledger.state import Study


class ShiftEntry(LineEntry):
    """The base of both entries for level shifts.

    then: consequences of a shift
    """

    season: Annotated[
        int | None, Field(title="season length", ge=2, le=10_000), Word(empty="no season", usual="season")
    ] = 7
    then: Annotated[tuple[Follow, ...], Field(title="what follows"), Word(empty="nothing else follows")] = ()

    @field_validator("then")
    @classmethod
    def _one_lift(cls, then: tuple[Follow, ...]) -> tuple[Follow, ...]:
        if Follow.DIFFERENCE in then and Follow.RATIO in then:
            raise ValueError("the earlier part is lifted by the difference or by the ratio, not by both")
        return then

    @property
    def season_taken(self) -> str:
        """The season in the template."""
        return "a season of {season} {@periods}" if self.season else "{season}"


def shift_rule(line: Line, period: int, name: str, study: Study) -> Rule:
    """Return the rule that marks a shift."""
    return Rule(
        id=shape_id(study.entry_id, line.name, f"shift {study.grain.label(period)}"),
        entry=study.entry_id,
        series=line.name,
        name=name,
        period=period,
    )
