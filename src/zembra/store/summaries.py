"""Cache summaries of studies with their revision."""

from __future__ import annotations

import contextlib
from collections.abc import MutableMapping

from pydantic import ValidationError
from sqlalchemy import Engine, exc, func
from sqlalchemy.dialects.sqlite import insert
from sqlmodel import Session, col, select

from zembra.core.errors import Refusal
from zembra.core.ledger.digest import digest
from zembra.core.study.summary import StudySummary
from zembra.store.actor import read_only
from zembra.store.notes import HOLDS
from zembra.store.studies import KeptStudy
from zembra.store.tables import Note, Summary
from zembra.store.watching import every_finding
from zembra.version import __version__


class Summaries:
    """The valid summaries at one moment."""

    def __init__(self, engine: Engine, remembered: MutableMapping[int, tuple[str, str]]) -> None:
        """Load.

        remembered: by study, computed during read-only requests
        """
        self._engine = engine
        self._remembered = remembered
        self._kept: dict[int, tuple[str, str]] = {}
        self._noted: dict[int, tuple[int, int]] = {}
        self._called: dict[int, list[int | None]] = {}
        # summaries are recomputed if they or the notes are unreadable
        with contextlib.suppress(exc.OperationalError, Refusal), Session(engine) as session:
            self._kept = {summary.study_id: (summary.key, summary.view) for summary in session.exec(select(Summary))}
            self._called = {study: [finding.id for finding in found] for study, found in every_finding(engine).items()}
            notes = select(Note.study_id, func.count(), func.max(Note.id)).where(Note.standing == HOLDS)
            self._noted = {
                study: (count, last or 0) for study, count, last in session.exec(notes.group_by(col(Note.study_id)))
            }

    def get(self, kept: KeptStudy) -> StudySummary | None:
        """Return the summary of a revision with its notes."""
        for known in (self._kept, self._remembered):
            key, view = known.get(kept.study.id or 0, ("", ""))
            if key == self._key(kept, view):
                with contextlib.suppress(ValidationError):
                    return StudySummary.model_validate_json(view)
        return None

    def keep(self, kept: KeptStudy, said: StudySummary) -> None:
        """Store a finished summary."""
        if said.unfinished:
            return
        view = said.model_dump_json()
        self._remembered[kept.study.id or 0] = (self._key(kept, view), view)
        if not read_only.get():
            keep_said(self._engine, self._remembered)

    def _key(self, kept: KeptStudy, view: str) -> str:
        """Return the cache key, with the digest of the content, so that altered rows are recomputed."""
        at = kept.revision
        noted = self._noted.get(kept.study.id or 0, (0, 0))
        about = (
            str(at.dataset_id),
            at.as_of.isoformat(),
            at.ledger,
            at.figure,
            repr(noted),
            repr(self._called.get(kept.study.id or 0)),
        )
        return digest(__version__, *about, view)


def keep_said(engine: Engine, remembered: MutableMapping[int, tuple[str, str]]) -> None:
    """Store the remembered summaries."""
    rows = []
    while remembered:
        with contextlib.suppress(KeyError):  # another one was quicker
            study_id, (key, view) = remembered.popitem()
            rows.append({"study_id": study_id, "key": key, "view": view})
    if not rows:
        return
    row = insert(Summary).values(rows)
    new = row.on_conflict_do_update(
        index_elements=["study_id"], set_={"key": row.excluded.key, "view": row.excluded.view}
    )
    # if it cannot be stored, as the study may be gone, it is recomputed
    with contextlib.suppress(exc.OperationalError, exc.IntegrityError), Session(engine) as session:
        session.exec(new)
        session.commit()
