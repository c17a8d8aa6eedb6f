"""Write report.json and the method note."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from zembra.core.calendar.lines import Condition, Received
from zembra.core.english import listed
from zembra.core.intake.howread import Settled
from zembra.core.ledger.evidence import Cell, Evidence, Plot, Table
from zembra.core.ledger.run import Report, Result
from zembra.core.study.followup import Item, State

CAME_AND_NOW = "What came in, and what it is now"


def report_data(
    result: Result,
    settled: tuple[Settled, ...] = (),
    *,
    unanswered: Sequence[str] = (),
    notices: Sequence[str] = (),
) -> dict[str, Any]:
    """Return the content of report.json.

    settled: answered questions about the file; unanswered: questions nobody answered
    notices: what was left out or guessed
    """
    return {
        "format": "zembra.report/1",
        "file": result.state.file_name,
        "as_of": result.state.as_of.isoformat(),
        "asked": [question.model_dump() for question in settled],
        "unanswered": list(unanswered),
        "notices": list(notices),
        "entries": [_entry(report) for report in result.reports],
        "warnings": warnings_of(result),
    }


def report_json(
    result: Result,
    settled: tuple[Settled, ...] = (),
    *,
    unanswered: Sequence[str] = (),
    notices: Sequence[str] = (),
) -> str:
    report = report_data(result, settled, unanswered=unanswered, notices=notices)
    return json.dumps(report, ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def _entry(report: Report) -> dict[str, Any]:
    return {
        "id": report.id,
        "kind": report.kind,
        "on": report.on,
        "sentence": report.sentence,
        "touched": report.outcome.touched,
        "touched_what": report.outcome.touched_what,
        "evidence": [evidence_data(table) for table in report.outcome.evidence],
        "warnings": list(report.outcome.warnings),
        "problem": str(report.problem) if report.problem else None,
    }


def evidence_data(table: Evidence) -> dict[str, Any]:
    """Convert a table with column kinds, or a plot with its numbers."""
    if isinstance(table, Plot):
        return {name: list(value) if isinstance(value, tuple) else value for name, value in asdict(table).items()}
    return table_data(table)


def table_data(table: Table) -> dict[str, Any]:
    return {
        "title": table.title,
        "columns": [column.title for column in table.columns],
        "keys": [column.key for column in table.columns],
        "kinds": [column.kind.value for column in table.columns],
        "rows": [[_plain(cell) for cell in row] for row in table.rows],
    }


def _plain(cell: Cell) -> Cell:
    if isinstance(cell, np.generic):
        cell = cell.item()
    return None if isinstance(cell, float) and not math.isfinite(cell) else cell


def warnings_of(result: Result) -> list[str]:
    """Return all warnings in ledger order, failed entries included."""
    said = []
    for report in result.reports:
        if report.problem:
            said.append(f"Not carried out: “{report.sentence}” {report.problem}")
        said.extend(report.outcome.warnings)
    undated = result.state.observations.undated_count
    if undated:
        first = result.state.observations.undated[0]
        said.append(
            f"{undated} row{'s were' if undated > 1 else ' was'} left out because the date cannot be read; "
            f"the first is row {first.row} (“{first.text}”)."
        )
    return said


def method_note(
    result: Result, title: str, sha256: str, settled: tuple[Settled, ...] = (), asked: Sequence[Item] = ()
) -> str:
    """Return sentences of the ledger with their effects as plain text.

    asked: the follow-up list, of which explained items are told
    """
    state = result.state
    text = [
        title,
        "=" * len(title),
        "",
        f"From {state.file_name} (SHA-256 {sha256}), as of {state.as_of:%-d %B %Y}.",
        "",
    ]
    text += [f"{n}. {sentence}" for n, sentence in enumerate(sentences_of(result), 1)]
    if settled:
        text += ["", "What Zembra asked about the file", ""]
        text += [f"- {question.question} {answered(question)}" for question in settled]
    text += ["", CAME_AND_NOW, "", *came_and_now(result)]
    explained = [item for item in asked if item.state is State.EXPLAINED]
    if explained:
        text += ["", "Periods that were asked about and explained", ""]
        text += [
            f"- {item.series}, {item.period}: {item.note or 'no note'}{f' ({item.who})' if item.who else ''}"
            for item in explained
        ]
    said = warnings_of(result)
    if said:
        text += ["", "Warnings", "", *(f"- {question}" for question in said)]
    return "\n".join(text) + "\n"


@dataclass(frozen=True, slots=True)
class Section:
    """A section of the account.

    ordered: whether its lines are numbered
    """

    heading: str
    lines: list[str]
    ordered: bool = False


def account_sections(
    result: Result, asked: list[str], *, most_warnings: int | None = None, most_series: int | None = None
) -> list[Section]:
    """Return the non-empty sections of the account.

    asked: questions about the file with their answers
    most: number of warnings and series to list; the rest is counted
    """
    sections = [
        Section("What was done", sentences_of(result), ordered=True),
        Section("What was asked about the file", asked),
        Section("Warnings", _at_most(warnings_of(result), most_warnings)),
        Section(CAME_AND_NOW, _at_most(came_and_now(result), most_series)),
    ]
    return [section for section in sections if section.lines]


def _at_most(lines: list[str], most: int | None) -> list[str]:
    if most is None or len(lines) <= most:
        return lines
    return [*lines[: most - 1], f"and {len(lines) - most + 1} more."]


def sentences_of(result: Result) -> list[str]:
    """Return each entry's sentence with its effect, and whether it ran."""
    sentences = []
    for report in result.reports:
        count = f"{report.outcome.touched:,}".replace(",", " ")
        touched = f" [{count} {report.outcome.touched_what}]" if report.outcome.touched_what else ""
        off = " (switched off: not carried out)" if not report.on else ""
        failed = f" (could not be carried out: {report.problem})" if report.problem else ""
        sentences.append(f"{report.sentence}{touched}{off}{failed}")
    return sentences


def came_and_now(result: Result) -> list[str]:
    """Count periods by series, as received and as they are now."""
    sentences = []
    for line in result.state.lines:
        came = [f"{count} {kind.word}" for kind in Received if (count := int((line.received == kind).sum()))]
        now = [f"{count} {kind.word}" for kind in Condition if (count := int((line.condition == kind).sum()))]
        sentences.append(f"{line.name}: received {listed(came) or 'nothing'}; now {listed(now) or 'nothing'}.")
    return sentences


def answered(question: Settled) -> str:
    """Return the answer to a question, or that there was none."""
    return f"Answered: {question.answer}." if question.answer else "Waved through: nobody has answered it."
