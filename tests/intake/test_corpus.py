"""Every file of the corpus is understood as it must be, or a question or error says what is unclear."""

from __future__ import annotations

import pytest

from tests.help import asked, run_csv
from tests.intake.corpus import Case, all_cases
from zembra.core.calendar.lines import Received
from zembra.core.errors import Refusal

CASES = all_cases()
WORDS = {Received.BLANK: "_", Received.ABSENT: ".", Received.UNREADABLE: "x"}


def said(data: bytes) -> dict[str, str]:
    """What was understood, in the words of the corpus."""
    state = run_csv(data).state
    told = {}
    for line in state.lines:
        cells = [
            WORDS.get(Received(kind)) or f"{value:g}" for kind, value in zip(line.received, line.original, strict=True)
        ]
        told[line.name] = " ".join(
            f"{label}={cell}" for label, cell in zip(state.grain.labels(line.periods), cells, strict=True)
        )
    return told


@pytest.mark.parametrize("case", CASES, ids=[case.name for case in CASES])
def test_understood_or_asked(case: Case) -> None:
    if case.told is not None:
        try:
            questions = " ".join(f"{one.title} {one.text}" for one in asked(case.data))
        except Refusal as refusal:
            questions = refusal.what
        assert case.told in questions
        return
    assert asked(case.data) == ()
    told = said(case.data)
    assert {name: told.get(name) for name in case.expected} == case.expected


def test_the_share_understood_is_told(capsys: pytest.CaptureFixture[str]) -> None:
    # each of these is read by the test above
    plain = sum(case.told is None for case in CASES)
    with capsys.disabled():
        print(
            f"\nintake corpus: {len(CASES)} files, {plain} understood without a correction, the rest asked or refused"
        )
    assert plain >= 0.85 * len(CASES) >= 51
