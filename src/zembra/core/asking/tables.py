"""Doubts about the table: other sheets that hold one too."""

from __future__ import annotations

from collections.abc import Iterator

from zembra.core.asking.evidence import Seen
from zembra.core.asking.question import Answer, Question, Reach
from zembra.core.grammar import listed
from zembra.core.intake.howread import FileForm

MOST_OFFERED = 6


def table_questions(seen: Seen) -> Iterator[Question]:
    alike = seen.table.alike
    if not alike:
        return
    chosen = seen.how.table.sheet or seen.table.sheets[0]
    what = {FileForm.PACKAGE: "resource", FileForm.HTML: "table"}.get(seen.how.table.form, "sheet")
    many = len(alike) > 1
    yield Question(
        f"sheet:{','.join(sorted((chosen, *alike)))[:200]}",
        Reach.TABLE,
        f"The file holds {len(alike)} more {what}{'s' if many else ''} with a table: {listed(list(alike[:4]))}"
        f"{' and others' if len(alike) > 4 else ''}.",
        f"Only {chosen} is read. Is that the one?",
        (
            Answer(f"yes, {chosen}"),
            *(Answer(name, {"table": {"sheet": name}}) for name in alike[: MOST_OFFERED - 1]),
        ),
    )
