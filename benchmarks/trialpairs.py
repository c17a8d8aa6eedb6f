"""Trial pairs of an old file and next month's: what taking the second in makes of a study of the first."""

from __future__ import annotations

import csv
import tempfile
from collections import defaultdict
from collections.abc import Mapping
from datetime import date, datetime
from pathlib import Path

import numpy as np

from benchmarks.trialfiles import TRIALS, Points, Truth, Verdict, difference, drawn
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.service.application import Application
from zembra.service.newrows import incoming, take_in
from zembra.store.database import close_database, open_database
from zembra.store.datasets import keep_dataset
from zembra.store.home import Home
from zembra.store.studies import create_study

AS_OF = date(2026, 2, 1)
FOLDER = TRIALS / "newrows"


def pair_truths() -> dict[str, dict[str, Truth]]:
    """By pair, and by old and meant: the numbers of each series by moment."""
    found: dict[str, dict[str, dict[str, dict[str, float]]]] = defaultdict(
        lambda: defaultdict(lambda: defaultdict(dict))
    )
    with (TRIALS / "newrows-truth.csv").open() as rows:
        for row in csv.DictReader(rows):
            if row["value"]:
                moment = datetime.fromisoformat(row["when"]).isoformat()
                found[row["pair"]][row["which"]][row["series"]][moment] = float(row["value"])
    return {pair: {which: dict(truth) for which, truth in sides.items()} for pair, sides in found.items()}


def hazards() -> dict[str, str]:
    with (TRIALS / "newrows-hazards.csv").open() as rows:
        return {row["pair"]: row["what must not be taken in silence"] for row in csv.DictReader(rows)}


def pair_verdict(item: tuple[str, Mapping[str, Truth]]) -> Verdict:
    """true, asked, refused, or taken wrong: where nothing was asked and the study holds something else than what was meant."""
    name, truth = item
    old, new = (next(FOLDER.glob(f"{name}.{which}.*")) for which in ("old", "new"))
    with tempfile.TemporaryDirectory() as folder:
        home = Home(Path(folder))
        engine = open_database(home.database)
        application = Application(engine, home)
        try:
            return _taken(application, old, new, truth["meant"])
        finally:
            application.queue.close()
            close_database(engine)


def _taken(application: Application, old: Path, new: Path, meant: Truth) -> Verdict:
    engine = application.engine
    brought = bring_in(old.read_bytes())
    kept_file = keep_dataset(engine, old.name, old.read_bytes(), brought.how)
    assert kept_file.id is not None
    ledger = first_ledger(brought.observations, brought.how, AS_OF)
    kept = create_study(engine, "study", kept_file.id, ledger, FigureSettings(), AS_OF)
    before = application.runs.run_whole(kept).result
    try:
        try:
            how = bring_in(new.read_bytes()).how
        except Refusal:
            how = brought.how
        received = keep_dataset(engine, new.name, new.read_bytes(), how)
        found = incoming(application, kept, before, received)
    except Refusal as refusal:
        return Verdict("refused", about=str(refusal))
    if found.questions:
        return Verdict("asked", found.questions)
    if found.changes is None or not found.changes.any:
        # nothing is new: what is there stays
        lines = drawn(application.readings.of(kept_file, brought.how), ledger, before)
        wrong = difference(lines, _as_moments(meant), by_moment=True, named=_named(meant))
        return Verdict("taken wrong" if wrong else "true", about=wrong)
    if found.result.problems:
        return Verdict("refused", about=str(found.result.problems[0].problem))
    take_in(application, kept, before, found, skip_questions=False, base=kept.study.head)
    wrong = difference(
        drawn(found.brought, found.ledger, found.result), _as_moments(meant), by_moment=True, named=_named(meant)
    )
    counts = {kind.value: count for kind, count in found.changes.counts.items()}
    said = f"{counts} new {found.changes.new_series} lost {found.changes.lost_series} names {dict(found.names)} {found.how}"
    return Verdict("taken wrong" if wrong else "true", about=f"{wrong} {said}")


def _named(meant: Truth) -> bool:
    return len(meant) > 1


def _as_moments(truth: Truth) -> dict[str, Points]:
    return {
        name: {moment: value for moment, value in cells.items() if not np.isnan(value)} for name, cells in truth.items()
    }
