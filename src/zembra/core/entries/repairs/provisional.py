"""Mark the newest periods as provisional: striped, and not counted by default."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.lines import Condition, Line, provisional_too
from zembra.core.entries.repairs.clauses.newest import LastFew, NewestRule
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, count, period, table
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import Study


@register
class Provisional(LineEntry):
    kind: ClassVar[str] = "provisional"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Provisional tail"
    hint: ClassVar[str] = "The newest periods are not all in yet: drawn striped, by default not counted."
    rank: ClassVar[int] = 4
    repairs: ClassVar[bool] = True

    rule: Annotated[NewestRule, Field(title="which periods", discriminator="kind")] = LastFew()

    def template(self) -> str:
        return "Treat {rule} of {series} as provisional: drawn striped, and not counted unless a reading says so."

    def on_line(self, line: Line, study: Study) -> LineResult:
        where = self.rule.where(line, study) & ~np.isnan(line.value) & (line.condition != Condition.SET_ASIDE)
        many = int(where.sum())
        first = study.grain.label(int(line.periods[np.argmax(where)])) if many else None
        made = provisional_too(line, where, study.entry_id) if many else None
        return LineResult(made, touched=many, rows=((line.name, many, first),))

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        columns = (SERIES, count("provisional", f"Provisional {study.grain.plural}"), period("from", "From"))
        return Account("provisional", (table("Not yet complete", columns, rows_of(made)),))
