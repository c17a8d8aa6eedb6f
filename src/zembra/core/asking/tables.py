"""Ask about other tables in the file: on other sheets, or further down."""

from __future__ import annotations

from collections.abc import Iterator

from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.question import Answer, AnswerReach, Question
from zembra.core.english import listed
from zembra.core.intake.howread import FileForm

MOST_OFFERED = 6
SMALL = 0.5  # of the rows of the table that is read: a smaller one is told and not asked about


def table_questions(seen: FileEvidence) -> Iterator[Question]:
    yield from _sheets(seen)
    yield from _parts(seen)


def _sheets(seen: FileEvidence) -> Iterator[Question]:
    alike = seen.table.alike
    others = (*alike, *seen.table.undated)
    if not others:
        return
    chosen = seen.how.table.sheet or seen.table.sheets[0]
    what = {
        FileForm.PACKAGE: "resource",
        FileForm.HTML: "table",
        FileForm.SQLITE: "table",
        FileForm.ARCHIVE: "file",
    }.get(seen.how.table.form, "sheet")
    many = len(others) > 1
    other_names = f"{listed(list(others[:4]))}{' and others' if len(others) > 4 else ''}"
    if alike:
        title, text = (
            f"The file holds {len(others)} more {what}{'s' if many else ''} with a table: {other_names}.",
            "Is that the one?",
        )
        text = f"Only {chosen} is read. {text}"
    else:
        title, text = (
            f"{other_names} {'hold' if many else 'holds'} no dates, and {'are' if many else 'is'} not read.",
            "",
        )
    yield Question(
        f"sheet:{','.join(sorted((chosen, *others)))[:200]}",
        AnswerReach.TABLE,
        title,
        text,
        (
            Answer(f"yes, {chosen}"),
            *(Answer(name, {"table": {"sheet": name}}) for name in others[: MOST_OFFERED - 1]),
        ),
        plain=not alike,
    )


def _parts(seen: FileEvidence) -> Iterator[Question]:
    """Ask about stacked tables of similar length; report small ones."""
    parts = seen.table.parts
    how = seen.how.table
    here = next((part for part in parts if (part.how.header_row, part.how.first_row, part.last_row) == (how.header_row, how.first_row, how.last_row)), None)  # fmt: skip
    if here is None:
        return
    others = [part for part in parts if part is not here]
    first = others[0]
    many = len(others) > 1
    said = f"rows {here.first_row} to {here.last_row}"
    yield Question(
        f"parts:{','.join(str(part.first_row) for part in parts)}"[:300],
        AnswerReach.TABLE,
        f"{f'{len(others)} further tables stand' if many else 'One further table stands'} "
        f"{'under' if first.first_row > here.first_row else 'above'} the one that is read ({said}).",
        f"The {'first of them' if many else 'other'} has {_counted(first.rows)} under {listed(list(first.names[:4]))} "
        f"(row {first.first_row} on).",
        (
            Answer(said),
            *(
                Answer(f"rows {other.first_row} to {other.last_row}", {"table": other.how.model_dump(mode="json")})
                for other in others[: MOST_OFFERED - 1]
            ),
        ),
        tuple(part.first_row for part in parts[:4]),
        plain=max(other.rows for other in others) < SMALL * here.rows,
    )


def _counted(rows: int) -> str:
    return f"{rows} rows" if rows > 1 else "one row"
