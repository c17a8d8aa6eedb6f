"""Real tables, rewritten as a mailbox holds them, against what stands in them: `../shared/trials`, where it is there."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date
from pathlib import Path

import numpy as np
import polars as pl

from benchmarks.measure import Ratio
from zembra.core.asking.ask import open_questions
from zembra.core.asking.question import Answer, Question, answered_entries, settled
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.run import Result, run
from zembra.core.ledger.start import first_ledger

TRIALS = Path(__file__).parents[2] / "shared" / "trials"
AS_OF = date(2026, 10, 31)
CLICKS = 2  # answers that are tried one after the other
MOST_ASKED_ASTRAY = 3  # files of 150
MOST_QUESTIONS = 0.3  # for each file that is read right

Truth = Mapping[str, Mapping[str, float]]


@dataclass(frozen=True)
class Verdict:
    """kind: right, right but asked, asked, asked astray, wrong silently or refused. about: the questions, or what is wrong."""

    kind: str
    questions: tuple[Question, ...] = ()
    about: str = ""


def truths() -> dict[str, Truth]:
    """By file and series: the number of each period."""
    found: dict[str, dict[str, dict[str, float]]] = defaultdict(lambda: defaultdict(dict))
    rows = pl.read_csv(TRIALS / "intake-truth.csv", schema_overrides={"period": pl.String})
    for name, series, period, value in rows.select("file", "series", "period", "value").iter_rows():
        if value is not None:
            found[name][str(series)][period] = value
    return found


def verdict(data: bytes, truth: Truth) -> Verdict:
    try:
        brought = bring_in(data)
        ledger = first_ledger(brought.observations, brought.how, AS_OF)
        result = run(brought.observations, ledger, AS_OF)
    except Refusal as refusal:
        return Verdict("refused", about=f"{refusal.what} {refusal.place or ''}")
    asked = open_questions(brought, result)
    wrong = difference(result, truth)
    if not wrong:
        return Verdict("right but asked" if asked else "right", asked)
    if not asked:
        return Verdict("wrong silently", about=wrong)
    led = answers_lead(data, brought, asked, truth, CLICKS)
    return Verdict("asked" if led else "asked astray", asked, wrong)


def answers_lead(data: bytes, brought: BroughtIn, asked: tuple[Question, ...], truth: Truth, clicks: int) -> bool:
    """Whether some answers, one after the other, lead to what is true."""
    for question in asked[:3]:
        for answer in question.answers:
            how = settled(question, brought.how, answer)
            try:
                again = _read_again(data, how, answer) if answer.reads_anew else brought
                ledger = answered_entries(first_ledger(again.observations, how, AS_OF), answer)
                result = run(again.observations, ledger, AS_OF)
            except Refusal:
                continue
            if not difference(result, truth):
                return True
            further = BroughtIn(again.table, how, again.observations, again.notices)
            if clicks > 1 and answer.reads_anew:
                more = open_questions(further, result)
                if more and answers_lead(data, further, more, truth, clicks - 1):
                    return True
    return False


def _read_again(data: bytes, how: HowRead, answer: Answer) -> BroughtIn:
    """As the Intake screen does: another table of the file is understood afresh."""
    return bring_in(data, table_how=how.table) if "table" in answer.how else bring_in(data, how)


def difference(result: Result, truth: Truth) -> str:
    """What of the truth is not drawn; "" where each true series is a line with the same numbers at the same periods."""
    lines = []
    for line in result.base.lines:
        labels = result.base.grain.labels(line.periods)
        lines.append({k: v for k, v in zip(labels, line.original, strict=True) if not np.isnan(v)})
    for name, cells in truth.items():
        at = next((n for n, line in enumerate(lines) if _same(line, cells)), None)
        if at is None:
            seen = [f"{line.name}: {list(lines[n].items())[:2]}" for n, line in enumerate(result.base.lines[:4])]
            return f"{name}: {list(cells.items())[:2]} is not among {len(lines)} lines ({'; '.join(seen)})"
        lines.pop(at)
    return ""


def _same(line: Mapping[str, float], truth: Mapping[str, float]) -> bool:
    return line.keys() == truth.keys() and all(abs(line[k] - v) <= 1e-9 * max(1.0, abs(v)) for k, v in truth.items())


def measure() -> Iterator[Ratio]:
    if not TRIALS.is_dir():
        print("     trials: ../shared/trials is not here, skipped")
        return
    found = {name: verdict((TRIALS / "intake" / name).read_bytes(), truth) for name, truth in truths().items()}
    count = Counter(one.kind for one in found.values())
    detail = ", ".join(f"{n} {kind}" for kind, n in count.most_common())
    right = [one for one in found.values() if one.kind.startswith("right")]
    asked = sum(len(one.questions) for one in right)
    yield Ratio("trial files wrong without a word", count["wrong silently"], 0, detail)
    yield Ratio("trial files asked without the right answer", count["asked astray"], MOST_ASKED_ASTRAY, detail)
    yield Ratio(
        "questions for a trial file that is right", asked / max(1, len(right)), MOST_QUESTIONS, f"{asked} asked"
    )
