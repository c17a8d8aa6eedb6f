"""Ask about names of series that differ only in case, spaces or dashes."""

from __future__ import annotations

from collections.abc import Iterator

from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.question import Answer, AnswerReach, Question
from zembra.core.english import listed
from zembra.core.intake.howread import Names
from zembra.core.intake.joining import alike_names, series_texts

MOST_SHOWN = 3


def name_questions(seen: FileEvidence) -> Iterator[Question]:
    how = seen.how.series
    texts = series_texts(seen.table, how)
    if texts is None or how.names is Names.FOLDED:
        return
    # ignore names of rows outside the table
    series = set(seen.brought.observations.series)
    alike = [known for names in alike_names(texts) if len(known := [text for text in names if text in series]) > 1]
    if not alike:
        return
    first = alike[0]
    places = [int((texts.str.strip_chars() == name).arg_max() or 0) for name in first]
    rows = tuple(seen.table.row_number(place) for place in places[:MOST_SHOWN])
    shown = listed([f"“{name}” (row {row})" for name, row in zip(first, rows, strict=False)])
    more = f" {len(alike) - 1} more like them." if len(alike) > 1 else ""
    yield Question(
        f"alike:{how.column}:{'|'.join(name for names in alike for name in names)}"[:300],
        AnswerReach.SERIES,
        f"{'Some names' if len(alike) > 1 else 'Names'} in {how.column} differ only in capitals, spaces or dashes.",
        f"They are {shown}.{more} Are they one series?",
        (
            Answer("one series", {"series": {"names": Names.FOLDED.value}}),
            Answer("series of their own"),
        ),
        rows,
        tuple(name for name in (how.column, *how.more) if name),
    )
