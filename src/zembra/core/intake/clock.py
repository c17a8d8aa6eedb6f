"""Convert local times and offsets to moments that never repeat or jump.

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
FEWEST_MIDNIGHTS = 4
MOST_MIDNIGHTS = 4  # times of day, as clocks say it and in UTC
FEW_LOOKED_AT = 500
# tried first when a zone is sought for offsets: one place for each rule in wide use
LIKELY_ZONES = (
    "Europe/Berlin", "Europe/London", "Europe/Athens", "Europe/Lisbon", "America/New_York", "America/Chicago",
    "America/Denver", "America/Los_Angeles", "America/Halifax", "America/St_Johns", "Australia/Sydney",
    "Australia/Adelaide", "Pacific/Auckland", "America/Santiago", "Asia/Jerusalem",
)  # fmt: skip


# one place for each distance to UTC in wide use that never changes
_STEADY = (
    "Africa/Lagos", "Africa/Johannesburg", "Europe/Moscow", "Asia/Dubai", "Asia/Karachi", "Asia/Kolkata", "Asia/Dhaka",
    "Asia/Bangkok", "Asia/Shanghai", "Asia/Tokyo", "Australia/Brisbane", "America/Sao_Paulo", "America/Bogota",
    "America/Phoenix", "Pacific/Honolulu",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Moments:
    """Moments of rows.

    when: in standard time
    wall: local time, None if equal
    zone: the place, None if its clock never changes or is unknown
    """

    when: pl.Series
    wall: pl.Series | None = None
    zone: str | None = None


def read_moments(cells: pl.Series, form: DateForm, zone: str | None, groups: pl.Series | None = None) -> Moments:
    """Return the moments of a column.

    groups: the series of each row
    """
    wall = read_dates(cells, form)
    if form.in_utc and zone is not None:
        return _of_zone(wall, zone)
    if not form.timed:
        return Moments(wall)
    offsets = offsets_of(cells, form)
    if offsets is None or offsets.null_count() > wall.null_count():
        return _local(wall, zone, groups) if zone else Moments(wall)
    if offsets.drop_nulls().n_unique() < 2 and zone is None:
        return Moments(wall)
    if _midnights(wall) and zone is None:
        # midnights of one zone are its days, whatever the UTC offset
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
    wall = local.dt.replace_time_zone(None).cast(pl.Datetime("ms"))
    if _midnights(wall) or zone.startswith("Etc/"):
        # the days of a place, whatever their distance to UTC is; or a clock that never changes
        return Moments(wall)
    return Moments((utc + local.dt.base_utc_offset()).cast(pl.Datetime("ms")), wall, zone)


def counted_from_midnight(days: pl.Series, minutes: pl.Series, zone: str | None) -> Moments:
    """Return moments so many minutes after midnight, elapsed minutes on days of a clock change.

    days: midnights; minutes: Int64
    """
    if zone is None:
        return Moments(
            pl.DataFrame({"d": days, "m": minutes})
            .select((pl.col("d") + pl.duration(minutes="m")).cast(pl.Datetime("ms")))
            .to_series()
        )
    midnight = days.dt.replace_time_zone(zone, ambiguous="earliest", non_existent="null").dt.convert_time_zone("UTC")
    frame = pl.DataFrame({"d": midnight.dt.replace_time_zone(None), "m": minutes})
    return _of_zone(frame.select((pl.col("d") + pl.duration(minutes="m")).cast(pl.Datetime("ms"))).to_series(), zone)


def _local(wall: pl.Series, zone: str, groups: pl.Series | None) -> Moments:
    """Convert local time. Of a repeated hour the second row of a group is the later one; skipped times become null."""
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
    """Return a zone with these UTC offsets at these moments, or None."""
    frame = pl.DataFrame({"utc": utc, "offset": offsets}).drop_nulls().unique()
    few = frame.gather_every(max(1, frame.height // 500))
    # the moments beside each change tell zones apart
    ordered = frame.sort("utc")
    edges = ordered.filter(
        (pl.col("offset") != pl.col("offset").shift(1)) | (pl.col("offset") != pl.col("offset").shift(-1))
    )
    some = pl.concat([few, edges]).unique()
    for zone in (*LIKELY_ZONES, *_all_zones()):
        local = some["utc"].dt.replace_time_zone("UTC").dt.convert_time_zone(zone)
        if bool(((local.dt.base_utc_offset() + local.dt.dst_offset()) == some["offset"]).all()):
            return zone
    return None


def midnight_zones(cells: pl.Series, form: DateForm) -> tuple[str, ...]:
    """Return zones in which all moments, given in UTC, are midnights, the likeliest first; none if they are
    midnights in UTC.
    """
    if not form.timed and not form.in_utc:
        return ()
    few = read_dates(cells.gather_every(max(1, cells.len() // FEW_LOOKED_AT)), form).drop_nulls()
    if few.dt.time().n_unique() > MOST_MIDNIGHTS:
        return ()
    moments = read_dates(cells, form)
    if form.timed:
        offsets = offsets_of(cells, form)
        if offsets is None or offsets.null_count() > moments.null_count() or offsets.drop_nulls().n_unique() != 1:
            return ()
        moments = moments - offsets
    utc = moments.drop_nulls().unique()
    if utc.len() < FEWEST_MIDNIGHTS or not utc.dt.time().n_unique() <= 2 or bool((utc.dt.truncate("1d") == utc).any()):
        return ()
    found = []
    for zone in (*LIKELY_ZONES, *_STEADY):
        local = utc.dt.replace_time_zone("UTC").dt.convert_time_zone(zone).dt.replace_time_zone(None)
        if _midnights(local):
            found.append(zone)
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Jumps:
    """Clock changes in local times.

    zones: those that fit
    skipped, repeated: the first missing and the first repeated time
    """

    zones: tuple[str, ...] = ()
    skipped: datetime | None = None
    repeated: datetime | None = None


def clock_jumps(wall: pl.Series, groups: pl.Series | None) -> Jumps:
    """Find clock changes in regular local times. A zone fits if its skipped times are absent, those around them
    present, and duplicates are its repeated times.

    wall: Datetime
    groups: the series of each row
    """
    # to the minute: what clocks skip and repeat are whole hours
    wall = wall.dt.truncate("1m")
    known = wall.drop_nulls()
    if known.len() < FEWEST_STAMPS:
        return Jumps()
    distinct = known.unique().sort()
    step = distinct.diff().drop_nulls().mode().min()
    if not isinstance(step, timedelta) or not timedelta(0) < step <= timedelta(hours=1):
        return Jumps()
    # only what stands around the days on which any of the clocks changes tells them apart
    first, last = distinct[0], distinct[-1]
    days = {
        day + timedelta(days=n)
        for zone in LIKELY_ZONES
        for day in _days_of_change(zone, first.replace(hour=0, minute=0, second=0, microsecond=0), last)
        for n in (-1, 0, 1, 2)
    }
    there = set(
        distinct.filter(distinct.dt.truncate("1d").is_in(pl.Series(list(days), dtype=pl.Datetime("ms")))).to_list()
    )
    frame = pl.DataFrame(
        {"wall": wall, "group": groups if groups is not None else pl.repeat(0, wall.len(), eager=True)}
    )
    twice: set[datetime] = set()
    if distinct.len() < known.len():
        twice = set(frame.drop_nulls("wall").filter(pl.struct("wall", "group").is_duplicated())["wall"].to_list())
    fitting = []
    jumps: dict[str, datetime | None] = {"skipped": None, "repeated": None}
    for zone in LIKELY_ZONES:
        found = _changes(zone, there, step, first, last)
        if found is None:
            continue
        skipped, repeated = found
        doubled = bool(repeated) and bool(twice) and twice <= set(repeated)
        if not (skipped or doubled) or (twice and not doubled):
            continue
        fitting.append(zone)
        if len(fitting) == 1:
            jumps = {"skipped": skipped[0] if skipped else None, "repeated": min(twice) if doubled else None}
    return Jumps(tuple(fitting), jumps["skipped"], jumps["repeated"])


def _changes(
    zone: str, there: set[datetime], step: timedelta, first: datetime, last: datetime
) -> tuple[list[datetime], list[datetime]] | None:
    """Return skipped and repeated local times of a zone on a step, or None if the data contradict it."""
    place = ZoneInfo(zone)
    skipped: list[datetime] = []
    repeated: list[datetime] = []
    midnight = first.replace(hour=0, minute=0, second=0, microsecond=0)
    phase = (first - midnight) % step
    for day in _days_of_change(zone, midnight, last):
        change = _offset(day + timedelta(days=1), place) - _offset(day, place)
        for n in range(int(timedelta(days=1) / step)):
            start = day + phase + n * step
            early, late = (start.replace(tzinfo=place, fold=fold).utcoffset() for fold in (0, 1))
            if not first <= start <= last or early is None or late is None or early == late:
                continue
            if change < timedelta(0):
                repeated.append(start)
            elif start in there or not {start - timedelta(hours=3), start + timedelta(hours=3)} <= there:
                return None
            else:
                skipped.append(start)
    return skipped, repeated


def _days_of_change(zone: str, first: datetime, last: datetime) -> list[datetime]:
    """Return the midnights after which the UTC offset of a zone changes."""
    days = pl.datetime_range(first, last + timedelta(days=1), "1d", time_unit="us", eager=True)
    local = days.dt.replace_time_zone(zone, ambiguous="earliest", non_existent="null")
    ahead = (local.dt.base_utc_offset() + local.dt.dst_offset()).forward_fill()
    return (
        days.head(days.len() - 1).filter((ahead.diff(null_behavior="drop") != timedelta(0)).fill_null(False)).to_list()
    )


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
