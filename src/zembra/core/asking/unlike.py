"""Ask about rows and series unlike the rest: totals, plans, forecasts."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from zembra.core.arithmetic.arrays import every_of, values_at
from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.question import Answer, AnswerReach, Question, leave_out
from zembra.core.english import counted, listed
from zembra.core.intake.howread import ValueKind
from zembra.core.intake.joining import periods_across
from zembra.core.intake.totals import is_total

FEWEST_LINES = 3
MOST_LINES = 2_000
FEWEST_PERIODS = 5
NEARLY_ALL = 0.9  # of the periods: late corrections reach the parts and not their sum
ROUNDED = 1e-3  # of a sum
LOOKED_AT = 1_000  # rows
MOST_KINDS = 12  # different texts of a column that tells kinds of rows apart
_NOT_MEASURED = re.compile(
    r"(?i)\W*(?:forecast(?:ed)?|fcst|projected|projection|prediction|predicted|estimated?|budget(?:ed)?|plan(?:ned)?"
    r"|target|outlook|scenario|prognose|prognosis|prognos|plan-?wert|schätzung|prévision|prévu|budgété|estimación"
    r"|pronóstico|previsto|previsión|previsione|raming)s?\W*"
)
_FLAG_COLUMN = re.compile(
    r"(?i)(?:^|[^a-z])(?:status|flag|kind|type|obs)(?:$|[^a-z])|status$|flag$|^a ?/ ?[febp]$|^(?:actual|act) ?(?:/|or) ?(?:forecast|fcst|budget)$"
)
_FLAG = re.compile(r"(?i)f|e|est\.?|fc")
# a year or month that says it is estimated, foreseen, planned or budgeted: FY22E, May-25 F
_FORESEEN = re.compile(r"(?i)\d ?\(?[efpb]\)?$")


def unlike_questions(seen: FileEvidence) -> Iterator[Question]:
    if seen.how.values.kind is not ValueKind.EVENTS:
        yield from _sums(seen)
    if seen.how.values.kind is not ValueKind.ACROSS:
        yield from _not_measured(seen)
    yield from _foreseen(seen)


def _foreseen(seen: FileEvidence) -> Iterator[Question]:
    """Ask about periods whose date is marked as forecast."""
    how, table = seen.how, seen.table
    across = how.values.kind is ValueKind.ACROSS
    column = how.dates.column
    if across:
        texts = periods_across(table, how)
    elif column is not None and not how.dates.form.bare:
        texts = table.cells[column].drop_nulls().unique(maintain_order=True).to_list()
    else:
        return
    said = [text for text in texts if _FORESEEN.search(text.strip())]
    if not said or len(said) == len(texts):
        return
    many = len(said) > 1
    left = [text for text in texts if text not in said]
    answer = (
        Answer(f"leave {'them' if many else 'it'} out", {"values": {"columns": left}})
        if across
        else leave_out("them" if many else "it", column or "", said)
    )
    rows = () if across else tuple(int(n) for n in table.numbers.filter(table.cells[column or ""].is_in(said)).head(4))
    yield Question(
        f"foreseen:{','.join(said)}"[:300],
        AnswerReach.NUMBERS,
        f"{counted(len(said), 'period')} {'say' if many else 'says'} that {'they are' if many else 'it is'} foreseen or estimated.",
        f"{'They are' if many else 'It is'} {listed([f'“{text}”' for text in said[:4]])}. "
        f"{'Do they' if many else 'Does it'} count like what was measured?",
        (answer, Answer("they count like the others" if many else "it counts like the others")),
        rows,
        tuple(said[:4]) if across else (column or "",),
    )


def _sums(seen: FileEvidence) -> Iterator[Question]:
    """Ask about a series that is the sum of all others, which sums would count twice."""
    lines = seen.lines
    if not FEWEST_LINES <= len(lines) <= MOST_LINES:
        return
    periods = every_of([line.periods for line in lines])
    values = np.array([values_at(line.periods, line.original, periods) for line in lines])
    there = ~np.isnan(values)
    known = np.where(there, values, 0.0)
    rest = known.sum(axis=0) - known
    # a single other series is no sum
    worth = there & (known != 0) & ((there.sum(axis=0) - there) >= FEWEST_LINES - 1)
    same = worth & (np.abs(rest - known) <= ROUNDED * np.abs(known))
    count = worth.sum(axis=1)
    found = np.flatnonzero((count >= FEWEST_PERIODS) & (same.sum(axis=1) >= NEARLY_ALL * count))
    if not found.size:
        return
    name = lines[int(found[0])].name
    how = seen.how
    answers = [Answer("it is a series like the others")]
    if how.series.column is not None and not how.series.more:
        answers.append(leave_out("it", how.series.column, [name]))
    elif name in how.values.columns:
        others = [column for column in how.values.columns if column != name]
        answers.append(Answer("leave it out", {"values": {"columns": others}}))
    at = int(np.flatnonzero(same[found[0]])[0])
    label = seen.state.grain.spoken(int(periods[at]))
    yield Question(
        f"sum:{name}"[:300],
        AnswerReach.SERIES,
        f"{name} is the sum of the other series.",
        f"On {label} it is {known[found[0], at]:,.12g}, and so are the {int(there[:, at].sum()) - 1} others together. "
        "What adds up series would count it twice.",
        tuple(answers),
        (),
        tuple(used for used in (how.series.column, name if name in seen.table.columns else None) if used),
        # no warning if the column itself proves it
        plain=is_total(name),
    )


def _not_measured(seen: FileEvidence) -> Iterator[Question]:
    """Ask about rows that a column calls planned, estimated or forecast."""
    how, table = seen.how, seen.table
    used = {how.dates.column, *how.dates.more, how.series.column, *how.series.more, *how.values.columns}
    tested = {condition.column for condition in how.keep}
    for name in table.columns:
        if name in used or name in tested:
            continue
        # most columns are no kinds of rows, and need not be looked through
        if table.cells[name].head(LOOKED_AT).n_unique() > MOST_KINDS:
            continue
        cells = table.cells[name].str.strip_chars()
        texts = cells.unique(maintain_order=True).drop_nulls().to_list()
        if not 1 <= len(texts) <= MOST_KINDS:
            continue
        flags = _FLAG_COLUMN.search(name)
        said = [text for text in texts if _NOT_MEASURED.fullmatch(text) or (flags and _FLAG.fullmatch(text))]
        hit = cells.is_in(said).fill_null(False)
        if not said or hit.all():
            continue
        count = int(hit.sum())
        many = count > 1
        yield Question(
            f"unlike:{name}:{','.join(said)}"[:300],
            AnswerReach.NUMBERS,
            f"{count} row{'s say' if many else ' says'} {listed([f'“{condition}”' for condition in said])} in {name}.",
            f"Others do not. {'Do they' if many else 'Does it'} count like what was measured?",
            (
                leave_out("them" if many else "it", name, said),
                Answer(f"{'they count' if many else 'it counts'} like the others"),
            ),
            tuple(table.row_number(int(at)) for at in hit.arg_true().head(4)),
            (name,),
        )
