"""Judging shared out among processes, with what is known already."""

from __future__ import annotations

from dataclasses import replace

from tests.core.test_judging import VALUES, asked
from zembra.core.judging.asked import Judging
from zembra.core.judging.verdict import Verdict
from zembra.service.judging import Judged


def quiet(_doing: str, _share: float) -> None:
    """Nobody watches."""


def test_every_candidate_is_judged_once_and_all_share_their_scale() -> None:
    one = asked(VALUES.tolist(), judging=Judging(ahead=14, starts=2, apart=14))
    known: dict[str, Verdict] = {}
    judged = Judged(one, known)
    judged(quiet)
    bench, every = judged.bench, judged.verdicts
    assert bench is not None
    assert set(every) == {candidate.key for candidate in bench.every}
    # what is known is not judged again, and lengths of one's own are tried
    before = dict(known)
    own = Judged(replace(one, judging=one.judging.model_copy(update={"seasons": (9,)})), known)
    own(quiet)
    assert {key: known[key] for key in before} == before
    assert len(known) == len(before) + 1
    assert own.verdicts.keys() - every.keys() == {"season 9"}
    scales = {round(v.score.mae / v.score.mase, 9) for v in every.values() if v.score and v.score.mase}
    assert len(scales) == 1
