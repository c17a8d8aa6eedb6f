"""Convert between stored moments and the local clock of a zone."""

from __future__ import annotations

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Ints, Moments


def wall_and_offset(moments: Moments, zone: str) -> tuple[Moments, Ints]:
    """Return local time and UTC offset in minutes of moments in standard time.

    moments: datetime64[s]
    """
    standard = pl.Series(moments.astype("datetime64[ms]"))
    base = standard.dt.replace_time_zone("UTC").dt.convert_time_zone(zone).dt.base_utc_offset()
    local = (standard - base).dt.replace_time_zone("UTC").dt.convert_time_zone(zone)
    ahead = (local.dt.base_utc_offset() + local.dt.dst_offset()).dt.total_minutes()
    wall = local.dt.replace_time_zone(None).to_numpy().astype("datetime64[s]")
    return wall, np.asarray(ahead.to_numpy(), dtype=np.int64)


def from_wall(wall: Moments, zone: str) -> Moments:
    """Convert local to standard time: the first if the local time occurs twice, an hour later if it is skipped."""
    shown = pl.Series(wall.astype("datetime64[ms]"))
    local = shown.dt.replace_time_zone(zone, ambiguous="earliest", non_existent="null")
    later = (shown + pl.duration(hours=1)) if local.null_count() else None
    if later is not None:
        moved = pl.select(later).to_series().dt.replace_time_zone(zone, ambiguous="earliest", non_existent="null")
        local = local.zip_with(local.is_not_null(), moved)
    utc = local.dt.convert_time_zone("UTC").dt.replace_time_zone(None)
    return np.asarray((utc + local.dt.base_utc_offset()).to_numpy().astype("datetime64[s]"))


def standard(wall: Moments, ahead: Ints, zone: str) -> Moments:
    """Convert local time with its UTC offset in minutes (`ahead`) to standard time."""
    utc = wall - ahead.astype("timedelta64[m]")
    base = (
        pl.Series(utc.astype("datetime64[ms]"))
        .dt.replace_time_zone("UTC")
        .dt.convert_time_zone(zone)
        .dt.base_utc_offset()
    )
    return np.asarray(utc + base.dt.total_seconds().to_numpy().astype("timedelta64[s]"))
