"""Clocks that change: wall-clock moments and offsets to moments that never repeat or jump.

A moment is kept on the standard time of its place all year round, which is UTC and a fixed distance.
What the clock on the wall showed is kept beside it, since a day is a day of the wall's clock.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from zoneinfo import available_timezones

import polars as pl

from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dates import offsets_of, read_dates

# tried first when a zone is sought for offsets: one place for each rule in wide use
_LIKELY = (
    "Europe/Berlin", "Europe/London", "Europe/Athens", "Europe/Lisbon", "America/New_York", "America/Chicago",
    "America/Denver", "America/Los_Angeles", "America/Halifax", "America/St_Johns", "Australia/Sydney",
    "Australia/Adelaide", "Pacific/Auckland", "America/Santiago", "Asia/Jerusalem",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Moments:
    """when: on standard time. wall: what the clock showed, None where it never differs.
    zone: the place, None where the clock does not change or is not known."""

    when: pl.Series
    wall: pl.Series | None = None
    zone: str | None = None


def read_moments(cells: pl.Series, form: DateForm, zone: str | None, groups: pl.Series | None = None) -> Moments:
    """Moments of a column. groups: what tells the series of the rows apart."""
    wall = read_dates(cells, form)
    if not form.timed:
        return Moments(wall)
    offsets = offsets_of(cells, form)
    if offsets is None or offsets.null_count() > wall.null_count():
        return _local(wall, zone, groups) if zone else Moments(wall)
    if offsets.drop_nulls().n_unique() < 2 and zone is None:
        return Moments(wall)
    if _midnights(wall) and zone is None:
        # midnights of one place are its days, whatever the distance to UTC is
        return Moments(wall)
    utc = wall - offsets
    place = zone or zone_of(utc, offsets)
    if place is None:
        least = offsets.min()
        return Moments(wall - (offsets - least), wall)
    return _of_zone(utc, place)


def _midnights(wall: pl.Series) -> bool:
    return bool((wall.drop_nulls().dt.truncate("1d") == wall.drop_nulls()).all())


def _of_zone(utc: pl.Series, zone: str) -> Moments:
    local = utc.dt.replace_time_zone("UTC").dt.convert_time_zone(zone)
    return Moments(
        (utc + local.dt.base_utc_offset()).cast(pl.Datetime("ms")),
        local.dt.replace_time_zone(None).cast(pl.Datetime("ms")),
        zone,
    )


def _local(wall: pl.Series, zone: str, groups: pl.Series | None) -> Moments:
    """Wall-clock moments of a place. Of an hour that the clocks repeat, the second row of the same
    group is the later one; a moment that the clocks skip becomes null."""
    frame = pl.DataFrame(
        {"when": wall, "group": groups if groups is not None else pl.repeat(0, wall.len(), eager=True)}
    )
    turn = pl.col("when").cum_count().over("when", "group")
    ambiguous = pl.when(turn == 1).then(pl.lit("earliest")).otherwise(pl.lit("latest"))
    local = frame.select(
        pl.col("when").dt.replace_time_zone(zone, ambiguous=ambiguous, non_existent="null")
    ).to_series()
    return _of_zone(local.dt.convert_time_zone("UTC").dt.replace_time_zone(None), zone)


def zone_of(utc: pl.Series, offsets: pl.Series) -> str | None:
    """A place whose clock had these distances to UTC at these moments; None where there is none."""
    frame = pl.DataFrame({"utc": utc, "offset": offsets}).drop_nulls().unique()
    few = frame.gather_every(max(1, frame.height // 500))
    # the moments beside each change tell zones apart
    ordered = frame.sort("utc")
    edges = ordered.filter(
        (pl.col("offset") != pl.col("offset").shift(1)) | (pl.col("offset") != pl.col("offset").shift(-1))
    )
    some = pl.concat([few, edges]).unique()
    for zone in (*_LIKELY, *_all_zones()):
        local = some["utc"].dt.replace_time_zone("UTC").dt.convert_time_zone(zone)
        if bool(((local.dt.base_utc_offset() + local.dt.dst_offset()) == some["offset"]).all()):
            return zone
    return None


@lru_cache(maxsize=1)
def _all_zones() -> tuple[str, ...]:
    return tuple(
        sorted(
            zone
            for zone in available_timezones()
            if re.match(r"(Africa|America|Asia|Atlantic|Australia|Europe|Indian|Pacific)/", zone)
        )
    )
