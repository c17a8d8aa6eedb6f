"""Compute when a failed action is retried."""

from __future__ import annotations

import random
from datetime import timedelta

UNEVEN = 0.2  # share by which waits differ, so that not all is tried at one moment
MOST_DOUBLED = 12


def wait_before(first: timedelta, tries: int) -> timedelta:
    """How long to wait after so many tries in a row that failed: twice as long after each."""
    wait: timedelta = first * (1 << min(tries - 1, MOST_DOUBLED)) * random.uniform(1 - UNEVEN, 1 + UNEVEN)
    return wait
