"""Right files of six containers, one bit of each changed: how many raise, and how many with a sum of their own are read otherwise."""

from __future__ import annotations

from collections.abc import Iterator

from tests.intake.flipped import CONTAINERS, SUMMED, flips

from benchmarks.measure import Ratio

FILES = 500


def measure() -> Iterator[Ratio]:
    for form in CONTAINERS:
        found = flips(form, FILES, seed=500)
        told = ", ".join(f"{count} {what}" for what, count in sorted(found.counts.items()))
        yield Ratio(f"{FILES} {form} files with one bit changed: not refused in words", len(found.raised), 0, told)
        if form in SUMMED:
            yield Ratio(f"{FILES} {form} files with one bit changed: read otherwise", found.counts["other"], 0, told)
