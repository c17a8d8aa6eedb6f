"""Put rows of the table of all series on the follow-up list."""

from __future__ import annotations

from dataclasses import replace

from zembra.core.errors import Refusal
from zembra.core.many.looks import Near, words_of
from zembra.core.study.followup import AMONG_ALL, Noted
from zembra.service.application import Application
from zembra.service.many.study import out_of
from zembra.service.many.table import Wanted, rows
from zembra.store.notes import keep_notes, kept_notes
from zembra.store.studies import KeptStudy

MOST_ASKED = 1_000  # at once: nobody asks about more


def ask_about(application: Application, kept: KeptStudy, wanted: Wanted, near: Near) -> tuple[int, int]:
    """Put the newest periods of the requested rows on the follow-up list, as one undoable step. Return how many
    were added, and how many were listed already or have no number. Raises Refusal.
    """
    assert kept.study.id is not None
    count, found = rows(out_of(application, kept), replace(wanted, start=0, count=MOST_ASKED), near)
    if count > MOST_ASKED:
        raise Refusal(
            f"These are more than {MOST_ASKED} series, which nobody asks about one by one.", todo="Choose fewer rows."
        )
    there = {
        (noted.series, noted.period) for noted in kept_notes(application.engine, kept.study.id).noted if noted.by_hand
    }
    words = words_of(near)
    new = [
        Noted(
            row["series"],
            row["newest_period"],
            by_hand=True,
            found_by=f"{AMONG_ALL}{', '.join(words[name] for name in row['found']) or 'chosen'}",
            value=row["newest"],
            distance=None if row["expected"] is None else row["newest"] - row["expected"],
        )
        for row in found.iter_rows(named=True)
        if row["newest_period"] is not None and (row["series"], row["newest_period"]) not in there
    ]
    if new:
        keep_notes(application.engine, kept.study.id, new)
    return len(new), found.height - len(new)
