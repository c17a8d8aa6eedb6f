"""Putting the demo study into a database."""

from __future__ import annotations

from sqlalchemy import Engine

from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.entries.average import Average
from zembra.core.ledger.entries.blanks import Blanks, Treatment
from zembra.core.ledger.entries.smoothing import Smoothing
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.start import first_ledger
from zembra.demo import AS_OF, demo_file
from zembra.store.datasets import keep_dataset
from zembra.store.studies import create_study, kept_studies

NAME = "Outer Isles, daily passengers"


def seed(engine: Engine) -> None:
    """Keep the demo data and its study, unless they are there."""
    if any(kept.study.name == NAME for kept in kept_studies(engine)):
        return
    data = demo_file("sailings.csv")
    brought = bring_in(data)
    kept = keep_dataset(engine, "sailings.csv", data, brought.how)
    assert kept.id is not None
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    entries = (
        record(Blanks(treatment=Treatment.STRAIGHT, longest=3), "short-blanks"),
        record(Average(window=28, need=20), "average"),
        record(Smoothing(ahead=56, season=7, series=("Outer Isles",)), "projection"),
    )
    ledger = Ledger(intake=begun.intake, entries=(*begun.entries, *entries))
    create_study(engine, NAME, kept.id, ledger, FigureSettings(title=NAME, shown=("Outer Isles",)), AS_OF)
