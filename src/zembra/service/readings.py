"""A cache of the last few files that were read."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import replace
from threading import Lock

from sqlalchemy import Engine

from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.howread import HowRead
from zembra.service.reading import read_file
from zembra.store.datasets import dataset_bytes
from zembra.store.tables import Dataset

MOST_TABLES = 8
MOST_BYTES = 200_000_000  # of the files behind them


class Readings:
    """A cache of recently read files. Safe across threads."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._kept: OrderedDict[tuple[str, str], tuple[BroughtIn, int]] = OrderedDict()
        self._lock = Lock()

    def of(self, dataset: Dataset, how: HowRead | None = None) -> BroughtIn:
        """Return a stored file as read; without `how` as detected. Raises Refusal."""
        key = _key(dataset, how)
        with self._lock:
            found = self._kept.get(key)
            if found:
                self._kept.move_to_end(key)
                # closed questions change no reading
                return found[0] if how is None else replace(found[0], how=how)
        assert dataset.id is not None
        brought = read_file(dataset_bytes(self._engine, dataset.id), how)
        self.keep(dataset, brought, understood=how is None)
        return brought

    def keep(self, dataset: Dataset, brought: BroughtIn, *, understood: bool) -> None:
        """Cache a reading.

        understood: whether it is the detected one
        """
        with self._lock:
            for key in {_key(dataset, brought.how), *({_key(dataset, None)} if understood else set())}:
                self._kept[key] = (brought, dataset.size)
            while len(self._kept) > 2 and self._too_many():
                self._kept.popitem(last=False)

    def _too_many(self) -> bool:
        sizes = {id(brought.table): size for brought, size in self._kept.values()}
        return len(sizes) > MOST_TABLES or sum(sizes.values()) > MOST_BYTES


def _key(dataset: Dataset, how: HowRead | None) -> tuple[str, str]:
    return dataset.sha256, how.model_dump_json(exclude={"settled"}) if how else ""
