"""Report what an export or import had to leave out."""

from __future__ import annotations

import sys

from zembra.store.transfer import TransferCounts


def print_left_out(carried: TransferCounts) -> int:
    """Print what was left out, and return the exit status."""
    for sentence in carried.left_out:
        print(f"Left out: {sentence}", file=sys.stderr)
    return 1 if carried.left_out else 0
