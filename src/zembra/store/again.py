"""Compute when a failed action is retried."""

from __future__ import annotations

import random
from datetime import timedelta

UNEVEN = 0.2  # share by which waits differ, so that not all is tried at one moment
MOST_DOUBLED = 12


def wait_before(first: timedelta, tries: int) -> timedelta:
    """Return the delay after consecutive failures, doubling each time."""
    wait: timedelta = first * (1 << min(tries - 1, MOST_DOUBLED)) * random.uniform(1 - UNEVEN, 1 + UNEVEN)
    return wait
