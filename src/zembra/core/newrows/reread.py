"""Check that a new file can be read like the last one, and choose the clock of its moments."""

from __future__ import annotations

from typing import Protocol, TypeVar

import polars as pl

from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.dates import offsets_of
from zembra.core.intake.howread import HowRead, TimesHow

Received_contra = TypeVar("Received_contra", contravariant=True)
AnyReceived = TypeVar("AnyReceived")


class Reads(Protocol[Received_contra]):
    """Reads received data by given or guessed settings."""

    def of(self, received: Received_contra, how: HowRead | None = None) -> BroughtIn: ...


def reads_all(brought: BroughtIn) -> bool:
    """Return whether every row has a date, and every number cell is a number, blank or explained."""
    observations = brought.observations
    unread = any(alike.beside is None for said in observations.said.values() for alike in said)
    return not unread and not observations.undated_count


def measured(brought: BroughtIn) -> int:
    """Return how many numbers were read."""
    return sum(frame.height - frame["value"].null_count() for frame in brought.observations.frames.values())


def on_clock_of(brought: BroughtIn, reads: Reads[AnyReceived], received: AnyReceived, last: AnyReceived) -> BroughtIn:
    """Convert the moments to the clock of the last file, if both tell their UTC offset."""
    own = _offset(brought)
    if own is None or brought.how.dates.zone is not None:
        return brought
    before = _offset(reads.of(last, brought.how.model_copy(update={"settled": ()})))
    if before is None or before == own:
        return brought
    zone = _fixed(before)
    if zone is None:
        return brought
    dates = brought.how.dates.model_copy(update={"zone": zone})
    return reads.of(received, brought.how.model_copy(update={"dates": dates}))


def _offset(brought: BroughtIn) -> int | None:
    """Return the common UTC offset in minutes, if there is one."""
    dates = brought.how.dates
    if dates.column is None or not dates.form.timed or dates.more or dates.times is not TimesHow.WRITTEN:
        return None
    offsets = offsets_of(brought.table.cells[dates.column], dates.form)
    if offsets is None or offsets.null_count() or offsets.n_unique() != 1:
        return None
    return int(pl.select(pl.lit(offsets[0])).to_series().dt.total_minutes()[0])


def _fixed(minutes: int) -> str | None:
    """Return the zone with a fixed offset; only whole hours have one."""
    if minutes % 60:
        return None
    hours = minutes // 60
    return "Etc/UTC" if not hours else f"Etc/GMT{-hours:+d}"
