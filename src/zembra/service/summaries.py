"""Compute the summaries in the list of studies: fast ones at once, slow ones in the background."""

from __future__ import annotations

import contextlib
import time

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.study.summary import StudySummary, summary_of
from zembra.service.application import Application
from zembra.store.errors import Altered, Damaged, NotKept
from zembra.store.notes import kept_notes
from zembra.store.studies import KeptStudy, kept_studies
from zembra.store.summaries import Summaries
from zembra.store.watching import called_for
from zembra.work.queue import Busy, Lane

STANDS_BACK = 0.01  # seconds before each study


def summarise(shared: Application, kept: KeptStudy, said: Summaries) -> StudySummary:
    """Summarise a study as far as that is fast, and cache it."""
    try:
        result = shared.runs.run_quickly(kept).result
        noted = kept_notes(shared.engine, kept.study.id or 0).noted
        called = called_for(shared.engine, kept.study.id or 0)
    except (Refusal, Altered, Damaged) as problem:
        return StudySummary(problem=str(problem))
    summary = summary_of(result, kept.figure.shown, noted, called)
    said.keep(kept, summary)
    return summary


def summarised(shared: Application) -> None:
    """Start computing missing summaries of all studies, one after another."""

    def work(progress: Progress) -> None:
        said = Summaries(shared.engine, shared.said)
        found = kept_studies(shared.engine).studies
        for n, kept in enumerate(found):
            # waiting requesters first
            time.sleep(STANDS_BACK)
            progress("looking at the studies", n / len(found))
            if said.get(kept) is None:
                with contextlib.suppress(NotKept, Refusal):
                    summarise(shared, kept, said)

    with contextlib.suppress(Busy):
        shared.queue.submit("summaries", Lane.READING, work)
