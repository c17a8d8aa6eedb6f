"""What the resources share: the engine, the caches, the clock and the settings."""

from __future__ import annotations

import contextlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from threading import Lock
from typing import cast

from flask import current_app
from sqlalchemy import Engine

from zembra.apart import read_apart
from zembra.api.jobs import Jobs
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.dates import forms_like
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger
from zembra.core.ledger.run import Result, run
from zembra.store.datasets import dataset, dataset_bytes
from zembra.store.studies import Kept, kept_studies
from zembra.store.tables import Dataset

KEPT_TABLES = 8
MOST_KEPT_BYTES = 200_000_000  # of the files behind the kept readings


@dataclass
class Context:
    """today: the day that studies begin on."""

    engine: Engine
    today: Callable[[], date] = date.today
    memo: Memo = field(default_factory=Memo)
    jobs: Jobs = field(default_factory=Jobs)
    _tables: OrderedDict[tuple[str, str], tuple[BroughtIn, int]] = field(default_factory=OrderedDict)
    _lock: Lock = field(default_factory=Lock)

    def brought_in(self, kept: Dataset, how: HowRead | None = None) -> BroughtIn:
        """A kept dataset as read; the last few readings are remembered. Raises Refusal."""
        key = (kept.sha256, how.model_dump_json() if how else "")
        with self._lock:
            found = self._tables.get(key)
            if found:
                self._tables.move_to_end(key)
                return found[0]
        assert kept.id is not None
        brought = read_apart(dataset_bytes(self.engine, kept.id), how)
        with self._lock:
            self._tables[key] = (brought, kept.size)
            while len(self._tables) > 1 and self._too_many():
                self._tables.popitem(last=False)
        return brought

    def _too_many(self) -> bool:
        return len(self._tables) > KEPT_TABLES or sum(size for _, size in self._tables.values()) > MOST_KEPT_BYTES

    def run(
        self, kept: Kept, ledger: Ledger | None = None, nudged: str | None = None, as_of: date | None = None
    ) -> tuple[Result, Dataset, BroughtIn]:
        """The study's run, of another ledger or on another day if one is given."""
        data = dataset(self.engine, kept.dataset_id)
        wanted = ledger or kept.ledger
        brought = self.brought_in(data, wanted.intake or HowRead.model_validate_json(data.how))
        result = run(
            brought.observations,
            wanted,
            as_of or kept.as_of,
            file_name=data.name,
            memo=self.memo,
            nudged=nudged,
        )
        return result, data, brought


def warm_up(shared: Context) -> None:
    """Run the newest studies once, so that the first one opened need not wait for slow imports."""
    forms_like("Mar 2026")  # the names of months are many
    for kept in kept_studies(shared.engine).studies[:3]:
        with contextlib.suppress(Refusal):
            shared.run(kept)


def context() -> Context:
    return cast(Context, current_app.extensions["zembra"])
