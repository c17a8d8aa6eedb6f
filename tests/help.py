"""Small makers the tests share."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from typing import Any

import numpy as np
from flask.testing import FlaskClient
from werkzeug.test import TestResponse

from zembra.core.asking.ask import open_questions
from zembra.core.asking.question import Question
from zembra.core.calendar.lines import Line
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.methods import AnyMethod, BySmoothing
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LimitsWord, NoSeason, SeasonOf
from zembra.core.entries.projections.projection import Projection
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import Result, run
from zembra.core.ledger.shapes import Curve
from zembra.demo import demo_file

AS_OF = date(2026, 10, 31)
FIRST = date(2026, 1, 1)


def asked(data: bytes) -> tuple[Question, ...]:
    """What Zembra asks about a file as it understands it."""
    brought = bring_in(data)
    ledger = first_ledger(brought.observations, brought.how, AS_OF)
    return open_questions(brought, run(brought.observations, ledger, AS_OF))


def daily_csv(cells: Sequence[object], first: date = FIRST) -> bytes:
    """day,riders with one row a day; None is a blank cell, ... leaves the row out."""
    rows = ["day,riders"]
    for n, cell in enumerate(cells):
        if cell is not ...:
            rows.append(f"{first + timedelta(n)},{'' if cell is None else cell}")
    return ("\n".join(rows) + "\n").encode()


def run_csv(
    data: bytes,
    *entries: Entry,
    memo: Memo | None = None,
    calendar: Mapping[str, Any] | None = None,
    file_name: str = "test.csv",
) -> Result:
    """The detected start of a study with `entries` after it, carried out. calendar: words of the calendar
    entry that are not as detected."""
    brought = bring_in(data)
    source, found = first_ledger(brought.observations, brought.how, AS_OF).entries
    begun = (source, found.model_copy(update={"params": {**found.params, **(calendar or {})}}))
    records = tuple(record(entry, f"t{n}") for n, entry in enumerate(entries))
    ledger = Ledger(intake=brought.how, entries=(*begun, *records))
    return run(brought.observations, ledger, AS_OF, file_name=file_name, memo=memo)


def run_values(values: Sequence[float | None], *entries: Entry) -> Result:
    """A study of one daily series; None and NaN are blank cells."""
    return run_csv(daily_csv([None if v is None or np.isnan(v) else repr(float(v)) for v in values]), *entries)


def result_of(file: str, *entries: Entry) -> Result:
    """The same of a file of the demo, by its name."""
    return run_csv(demo_file(file), *entries, file_name=file)


def only_line(result: Result) -> Line:
    (line,) = result.state.lines
    return line


def curves(result: Result) -> list[Curve]:
    return [one for one in result.state.shapes if isinstance(one, Curve)]


def smoothing(ahead: int = 56, season: int | None = 7, method: AnyMethod | None = None, **words: Any) -> Projection:
    """A projection by exponential smoothing alone, with its own limits."""
    return Projection(
        ahead=AheadPeriods(count=ahead),
        season=SeasonOf(season=season) if season else NoSeason(),
        method=method or BySmoothing(),
        limits=LimitsWord.OWN,
        **words,
    )


def handed_over(client: FlaskClient, address: str, method: str = "GET", **body: Any) -> TestResponse:
    """A file that is handed over, or a snapshot: asked for again as long as it is being made."""
    while (answer := client.open(address, method=method, **body)).status_code == 202:
        time.sleep(0.1)
    return answer


def answered(client: FlaskClient, answer: TestResponse) -> TestResponse:
    """The answer to a request that began something, by the key of its work."""
    while answer.status_code == 202:
        answer = client.get(f"/api/work/{answer.json['key']}/answer")
    return answer
