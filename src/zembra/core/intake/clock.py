"""Clocks that change: wall-clock moments and offsets to moments that never repeat or jump.

A moment is kept on the standard time of its place all year round, which is UTC and a fixed distance.
What the clock on the wall showed is kept beside it, since a day is a day of the wall's clock.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo, available_timezones

import polars as pl

from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dates import offsets_of, read_dates

FEWEST_STAMPS = 48
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


@dataclass(frozen=True, slots=True)
class Jumps:
    """zones: places whose clock fits, empty for none. skipped, repeated: the first wall-clock moment that
    is missing, and the first that stands twice."""

    zones: tuple[str, ...] = ()
    skipped: datetime | None = None
    repeated: datetime | None = None


def clock_jumps(wall: pl.Series, groups: pl.Series | None) -> Jumps:
    """Where an even run of wall-clock moments jumps as the clock of a place did.

    A place fits where no moment that its clock skipped is there, all those around are, and what stands
    twice for one group is what its clock repeated. wall: Datetime; groups: what tells series apart.
    """
    known = wall.drop_nulls()
    if known.len() < FEWEST_STAMPS:
        return Jumps()
    distinct = known.unique().sort()
    step = distinct.diff().drop_nulls().mode().min()
    if not isinstance(step, timedelta) or not timedelta(0) < step <= timedelta(hours=1):
        return Jumps()
    there = set(distinct.to_list())
    first, last = distinct[0], distinct[-1]
    frame = pl.DataFrame(
        {"wall": wall, "group": groups if groups is not None else pl.repeat(0, wall.len(), eager=True)}
    )
    twice = set(frame.drop_nulls("wall").filter(pl.struct("wall", "group").is_duplicated())["wall"].to_list())
    fitting = []
    told: dict[str, datetime | None] = {"skipped": None, "repeated": None}
    for zone in _LIKELY:
        skipped, repeated = _changes(zone, first, last, step)
        around = {one - timedelta(hours=3) for one in skipped} | {one + timedelta(hours=3) for one in skipped}
        gone = bool(skipped) and not (set(skipped) & there) and around <= there
        doubled = bool(repeated) and bool(twice) and twice <= set(repeated)
        if not (gone or doubled) or (skipped and not gone) or (twice and not doubled):
            continue
        fitting.append(zone)
        if len(fitting) == 1:
            told = {"skipped": skipped[0] if gone else None, "repeated": min(twice) if doubled else None}
    return Jumps(tuple(fitting), told["skipped"], told["repeated"])


def _changes(zone: str, first: datetime, last: datetime, step: timedelta) -> tuple[list[datetime], list[datetime]]:
    """(wall-clock moments that a place's clock skipped, those it showed twice), on a step."""
    place = ZoneInfo(zone)
    skipped: list[datetime] = []
    repeated: list[datetime] = []
    day = first.replace(hour=0, minute=0, second=0, microsecond=0)
    phase = (first - day) % step
    while day <= last:
        change = _offset(day + timedelta(days=1), place) - _offset(day, place)
        if change:
            moments = [day + phase + n * step for n in range(int(timedelta(days=1) / step))]
            for one in moments:
                early, late = (one.replace(tzinfo=place, fold=fold).utcoffset() for fold in (0, 1))
                if first <= one <= last and early is not None and late is not None and early != late:
                    (skipped if change > timedelta(0) else repeated).append(one)
        day += timedelta(days=1)
    return skipped, repeated


def _offset(moment: datetime, place: ZoneInfo) -> timedelta:
    return moment.replace(tzinfo=place).utcoffset() or timedelta(0)


@lru_cache(maxsize=1)
def _all_zones() -> tuple[str, ...]:
    return tuple(
        sorted(
            zone
            for zone in available_timezones()
            if re.match(r"(Africa|America|Asia|Atlantic|Australia|Europe|Indian|Pacific)/", zone)
        )
    )
