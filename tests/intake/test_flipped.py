"""One bit of a right file changed, and archives in archives: refused in words, or read; what has a sum of its own is never read otherwise."""

from __future__ import annotations

import gzip

import pytest

from tests.intake.flipped import CONTAINERS, CSV, SUMMED, flips, nested, numbers
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in


@pytest.mark.parametrize("form", CONTAINERS)
def test_one_bit_costs_no_more_than_the_file(form: str) -> None:
    found = flips(form, 60, seed=34)
    assert found.raised == []
    assert found.counts.total() == 60
    if form in SUMMED:
        assert found.counts["other"] == 0, found.counts


def test_archives_in_archives_are_read_or_refused_in_words() -> None:
    usual = numbers(bring_in(CSV))
    assert numbers(bring_in(nested(2))) == numbers(bring_in(nested(1))) == usual
    for depth in (3, 40):
        with pytest.raises(Refusal, match="holds no table"):
            bring_in(nested(depth))
    # packed again by the program that packs streams: once is unpacked, more is told
    assert numbers(bring_in(gzip.compress(CSV))) == usual
    with pytest.raises(Refusal):
        bring_in(gzip.compress(gzip.compress(gzip.compress(CSV))))
