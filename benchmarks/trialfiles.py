"""Trial files against what stands in them: how a file is judged that is read, asked about or refused."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path

import numpy as np

from zembra.core.asking.ask import open_questions
from zembra.core.asking.question import Answer, Question, answered_entries, settled
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import Ledger
from zembra.core.ledger.run import Result, run

TRIALS = Path(__file__).parents[2] / "shared" / "trials"
AS_OF = date(2026, 10, 31)
CLICKS = 3  # answers that are tried one after the other
MOST_MEASURES = 12

# the numbers of one series by the label of their period, or by a moment within it
Points = Mapping[str, float]
Truth = Mapping[str, Points]


@dataclass(frozen=True)
class Verdict:
    """kind: see `judged`. about: what is wrong, or why it was refused."""

    kind: str
    questions: tuple[Question, ...] = ()
    about: str = ""


@dataclass(frozen=True)
class Drawn:
    """A line that would begin. starts: of its periods, datetime64[s], with the end of the last; labels, values: by period."""

    name: str
    starts: np.ndarray
    labels: Sequence[str]
    values: np.ndarray

    def points(self, by_moment: bool, moments: Sequence[str]) -> dict[str, float]:
        """Its numbers by the keys of the truth where they have one, else by their label."""
        known = np.flatnonzero(~np.isnan(self.values)).tolist()
        names = {n: self.labels[n] for n in known}
        if by_moment and moments:
            wanted = np.array(moments, dtype="datetime64[s]")
            places = np.searchsorted(self.starts, wanted, side="right") - 1
            names |= {int(n): text for n, text in zip(places, moments, strict=True) if int(n) in names}
        return {names[int(n)]: float(self.values[n]) for n in known}


def judged(data: bytes, truths: Sequence[Truth], *, by_moment: bool = False) -> Verdict:
    """How a file is read: right, right but asked, asked, asked astray, lost, taken apart, wrong silently or refused.

    truths: what is as good, each by itself. by_moment: whether points are named by a moment within their period.
    """
    try:
        brought = bring_in(data)
        ledger = first_ledger(brought.observations, brought.how, AS_OF)
        result = run(brought.observations, ledger, AS_OF)
    except Refusal as refusal:
        return Verdict("refused", about=f"{refusal.what} {refusal.place or ''}")
    asked = open_questions(brought, result)
    lines = drawn(brought, ledger, result)
    wrongs = [difference(lines, truth, by_moment) for truth in truths]
    if not all(wrongs):
        return Verdict("right but asked" if asked else "right", asked)
    if not asked:
        kind = "wrong silently"
        if any(_only_lost(lines, truth, by_moment) for truth in truths):
            kind = "lost"
        elif any(_taken_apart(lines, truth, by_moment) for truth in truths):
            kind = "taken apart"
        return Verdict(kind, about=wrongs[0] if wrongs else "")
    led = answers_lead(data, brought, asked, truths, CLICKS, by_moment)
    return Verdict("asked" if led else "asked astray", asked, wrongs[0] if wrongs else "")


def drawn(brought: BroughtIn, ledger: Ledger, result: Result) -> list[Drawn]:
    """Every line of every measure that could be chosen."""
    found = _lines(result)
    used = result.base.selection.measure if result.base.selection else None
    for measure in brought.observations.measures[:MOST_MEASURES]:
        if measure == used:
            continue
        entries = tuple(
            item.model_copy(update={"params": {**item.params, "measure": measure}}) if item.kind == "source" else item
            for item in ledger.entries
        )
        found += _lines(run(brought.observations, ledger.model_copy(update={"entries": entries}), AS_OF))
    return found


def _lines(result: Result) -> list[Drawn]:
    grain = result.base.grain
    return [
        Drawn(
            line.name,
            grain.days(np.append(line.periods, line.periods[-1:] + 1)),
            grain.labels(line.periods),
            np.asarray(line.original),
        )
        for line in result.base.lines
        if len(line)
    ]


def answers_lead(
    data: bytes, brought: BroughtIn, asked: Sequence[Question], truths: Sequence[Truth], clicks: int, by_moment: bool
) -> bool:
    """Whether some answers, one after the other, lead to what is true."""
    for question in asked[:3]:
        for answer in question.answers:
            how = settled(question, brought.how, answer)
            try:
                again = _read_again(data, how, answer) if answer.reads_anew else brought
                ledger = answered_entries(first_ledger(again.observations, how, AS_OF), answer)
                result = run(again.observations, ledger, AS_OF)
                lines = drawn(again, ledger, result)
            except Refusal:
                continue
            if not all(difference(lines, truth, by_moment) for truth in truths):
                return True
            further = BroughtIn(again.table, how, again.observations, again.notices)
            if clicks > 1 and answer.reads_anew:
                more = open_questions(further, result)
                if more and answers_lead(data, further, more, truths, clicks - 1, by_moment):
                    return True
    return False


def _read_again(data: bytes, how: HowRead, answer: Answer) -> BroughtIn:
    """As the Intake screen does: another table of the file is understood afresh."""
    return bring_in(data, table_how=how.table) if "table" in answer.how else bring_in(data, how)


def difference(lines: Sequence[Drawn], truth: Truth, by_moment: bool, *, named: bool = False) -> str:
    """What of the truth is not drawn; "" where each true series is a line with the same numbers at the same periods. named:
    whether it is to have the same name."""
    left = list(lines)
    for name, cells in truth.items():
        at = next(
            (
                n
                for n, line in enumerate(left)
                if (not named or line.name == name) and _same(line.points(by_moment, list(cells)), cells)
            ),
            None,
        )
        if at is None:
            seen = [f"{line.name}: {list(line.points(by_moment, list(cells)).items())[:2]}" for line in lines[:4]]
            return f"{name}: {list(cells.items())[:2]} is not among {len(lines)} lines ({'; '.join(seen)})"
        left.pop(at)
    return ""


def _same(line: Points, truth: Points) -> bool:
    return line.keys() == truth.keys() and all(_close(line[key], value) for key, value in truth.items())


def _close(a: float, b: float) -> bool:
    # what a file rounds is not lost
    return abs(a - b) <= 1e-7 * max(1.0, abs(b))


def _only_lost(lines: Sequence[Drawn], truth: Truth, by_moment: bool) -> bool:
    """Whether every true series is a line that has right numbers only, some of them missing."""

    def part_of(cells: Points) -> bool:
        found = [line.points(by_moment, list(cells)) for line in lines]
        return any(
            points and all(key in cells and _close(value, cells[key]) for key, value in points.items())
            for points in found
        )

    return all(part_of(cells) for cells in truth.values())


def _taken_apart(lines: Sequence[Drawn], truth: Truth, by_moment: bool) -> bool:
    """Whether every true number stands at its period in some line, though no line is the series."""

    def there(cells: Points) -> bool:
        found = [line.points(by_moment, list(cells)) for line in lines]
        return all(
            any(key in points and _close(points[key], value) for points in found) for key, value in cells.items()
        )

    return all(there(cells) for cells in truth.values())
