"""What docs/reliability.md says was seen is what docs/performance.md says was measured, and each of its rows names a test that is there."""

from __future__ import annotations

import re
from pathlib import Path

ROOT = Path(__file__).parents[1]
SAID = (ROOT / "docs" / "reliability.md").read_text()
MEASURED = (ROOT / "docs" / "performance.md").read_text()
NUMBER = re.compile(r"\d[\d,]*(?:\.\d+)?")


def rows() -> list[list[str]]:
    """The cells of every row of its tables."""
    return [
        [cell.strip() for cell in line.strip("|").split("|")] for line in SAID.splitlines() if line.startswith("| ")
    ]


def numbers(text: str) -> set[str]:
    return {found.replace(",", "") for found in NUMBER.findall(text)}


def test_what_was_seen_is_what_was_measured() -> None:
    looked_at = 0
    for cells in rows():
        benches = re.findall(r"`bench (\w+)`", cells[-1])
        if not benches or len(cells) < 4:
            continue
        measured = [line for line in MEASURED.splitlines() if re.match(rf"\| \S+ \| ({'|'.join(benches)}) \|", line)]
        assert measured, cells
        told = numbers(" ".join(measured))
        # a number is told as it was measured, or with fewer digits
        for number in numbers(cells[-2]):
            assert any(one == number or one.startswith(number) for one in told), (cells[0], number)
        looked_at += 1
    assert looked_at >= 10


def test_every_row_names_a_test_or_a_bench_that_is_there() -> None:
    for path in re.findall(r"`(tests/[\w/]+\.py)`", SAID):
        assert (ROOT / path).is_file(), path
    for name in re.findall(r"`bench (\w+)`", SAID):
        assert (ROOT / "benchmarks" / f"bench_{name}.py").is_file(), name
