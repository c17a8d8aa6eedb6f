"""zembra run: run a ledger on a file, without a server."""

from __future__ import annotations

import argparse
import os
import tempfile
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from zembra.commands.compared import compared
from zembra.commands.picture import form_of, style_in, write_whole
from zembra.core.asking.ask import open_questions, plain_questions
from zembra.core.asking.rows import DOUBLED
from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.handover.package import unpacked
from zembra.core.handover.report import report_json, warnings_of
from zembra.core.handover.tables import lines_csv, points_csv
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.formats import detect_table
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import Ledger, parse_ledger
from zembra.core.ledger.run import run as carry_out
from zembra.rendering.isolated import warm_up as warm_up_drawing
from zembra.rendering.run_picture import picture_of_run
from zembra.service.reading import read_file
from zembra.settings import settings
from zembra.work.executor import TaskEnded


def run(args: argparse.Namespace) -> int:
    if args.picture is not None:
        # made ready while the file is read
        warm_up_drawing()
    asked = _asked(args)
    ledger = asked.ledger
    brought = _brought(asked.data, ledger.intake, args.sheet)
    result = carry_out(brought.observations, ledger, asked.as_of, file_name=asked.name, budget=settings().run_budget)
    if result.problems:
        first = result.problems[0]
        raise Refusal(f"“{first.sentence}” {first.problem}", place=f"in the entry {type(first.entry).title}")
    settled = ledger.intake.settled if ledger.intake else ()
    # nobody is there to be asked
    asked_still = open_questions(brought, result)
    for question in asked_still:
        if question.key.startswith(DOUBLED):
            raise Refusal(question.title, place=f"row {question.rows[0]}", todo="Take them out of the file.")
    unanswered = [question.full_text for question in asked_still]
    notices = [
        *(notice.text for notice in brought.notices),
        *(question.full_text for question in plain_questions(brought, result)),
    ]
    before = compared(args.compare, result) if args.compare is not None else []
    files = {
        "points.csv": points_csv(result),
        "lines.csv": lines_csv(result),
        "report.json": report_json(result, settled, unanswered=unanswered, notices=notices),
    }
    drawn: bytes | None = None
    not_drawn: TaskEnded | None = None
    if args.picture is not None:
        style = style_in(args.style)
        try:
            drawn = picture_of_run(result, asked.figure, form_of(args.picture), style, times=args.times)
        except TaskEnded as ended:
            # only the picture fails
            not_drawn = ended
    args.out.mkdir(parents=True, exist_ok=True)
    # all three are made, then moved into place: nothing is ever half-written
    with tempfile.TemporaryDirectory(dir=args.out) as folder:
        for name, text in files.items():
            (Path(folder) / name).write_text(text, encoding="utf-8", newline="")
        for name in files:
            os.replace(Path(folder) / name, args.out / name)
    if drawn is not None:
        write_whole(args.picture, drawn)
    for message in before:
        print(message)
    for message in (*(f"not asked: {open_question}" for open_question in unanswered), *notices, *warnings_of(result)):
        print(f"note: {message}")
    if not_drawn is not None:
        raise not_drawn
    return 0


@dataclass(frozen=True, slots=True)
class _Asked:
    """The inputs of `run`.

    name: of the data file
    """

    ledger: Ledger
    data: bytes
    name: str
    as_of: date
    figure: FigureSettings


def _asked(args: argparse.Namespace) -> _Asked:
    """Load a ledger and data, or a package. Raises Refusal."""
    text = args.ledger.read_bytes()
    data = args.data.read_bytes() if args.data else None
    if not text.startswith(b"PK"):
        if data is None:
            raise Refusal("There are no rows to run the ledger on.", todo="Say which file with --data.")
        return _Asked(parse_ledger(text), data, args.data.name, args.as_of or date.today(), FigureSettings())
    package = unpacked(text)
    study, rows = package.study, data or package.data
    if rows is None:
        raise Refusal("The package does not hold the received file.", todo="Say where it is with --data.")
    name = args.data.name if args.data else study.file
    return _Asked(study.ledger, rows, name, args.as_of or study.as_of, study.figure)


def _brought(data: bytes, how: HowRead | None, sheet: str | None) -> BroughtIn:
    """Read the file as the ledger says; --sheet overrides its sheet."""
    if sheet is None:
        return read_file(data, how)
    if how is not None:
        return read_file(data, how.model_copy(update={"table": how.table.model_copy(update={"sheet": sheet})}))
    return read_file(data, table_how=detect_table(data, sheet))
