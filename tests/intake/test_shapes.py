"""Tables in the shapes of real ones are read right, asked about or refused; never wrong without a word."""

from __future__ import annotations

from collections import Counter

import pytest

from tests.help import AS_OF, asked, run_csv
from tests.intake.outer_shapes import all_outer_shapes
from tests.intake.shapes import Shape, all_shapes
from tests.intake.test_corpus import said
from zembra.core.asking.ask import every_question, open_questions
from zembra.core.asking.question import answered_entries, settled
from zembra.core.calendar.lines import Received
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.run import run

SHAPES = [*all_shapes(), *all_outer_shapes()]


def outcome(shape: Shape) -> str:
    try:
        questions = asked(shape.data)
    except Refusal as refusal:
        return "refused" if shape.refused and shape.refused in refusal.what else "refused wrongly"
    if questions:
        return "asked" if shape.asks and questions[0].key.startswith(shape.asks) else "asked oddly"
    told = said(shape.data)
    right = shape.asks is None and shape.refused is None and all(told.get(n) == w for n, w in shape.expected.items())
    return "right" if right else "wrong silently"


@pytest.mark.parametrize("shape", SHAPES, ids=[shape.name for shape in SHAPES])
def test_read_right_asked_or_refused(shape: Shape) -> None:
    assert outcome(shape) == ("refused" if shape.refused else "asked" if shape.asks else "right")


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.answer and s.expected], ids=lambda shape: shape.name)
def test_one_click_leads_to_what_is_expected(shape: Shape) -> None:
    brought = bring_in(shape.data)
    ledger = first_ledger(brought.observations, brought.how, AS_OF)
    first, *_ = open_questions(brought, run(brought.observations, ledger, AS_OF))
    answer = next(one for one in first.answers if (shape.answer or "") in one.label)
    how = settled(first, brought.how, answer)
    again = bring_in(shape.data, how)
    begun = first_ledger(again.observations, how, AS_OF) if answer.reads_anew else answered_entries(ledger, answer)
    result = run(again.observations, begun, AS_OF)
    told = {}
    for line in result.base.lines:
        cells = [
            "_" if kind == Received.BLANK else f"{value:g}"
            for kind, value in zip(line.received, line.original, strict=True)
        ]
        labels = result.base.grain.labels(line.periods)
        told[line.name] = " ".join(f"{label}={cell}" for label, cell in zip(labels, cells, strict=True))
    assert {name: told.get(name) for name in shape.expected} == shape.expected
    assert first.key not in [one.key for one in open_questions(again, result)]
    assert how.settled[-1].answer == answer.label


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.tells], ids=lambda shape: shape.name)
def test_what_is_plain_is_told_with_one_click(shape: Shape) -> None:
    brought = bring_in(shape.data)
    result = run(brought.observations, first_ledger(brought.observations, brought.how, AS_OF), AS_OF)
    told = [one for one in every_question(brought, result) if one.plain and one.key.startswith(shape.tells or "")]
    assert len(told) == 1
    other = told[0].answers[-1]
    again = bring_in(shape.data, settled(told[0], brought.how, other)) if other.reads_anew else brought
    ledger = first_ledger(again.observations, again.how, AS_OF)
    after = run(again.observations, ledger if other.reads_anew else answered_entries(ledger, other), AS_OF)
    assert [one.name for one in after.base.lines] != [one.name for one in result.base.lines]


def test_a_question_waved_through_is_closed_and_remembered() -> None:
    data = next(shape for shape in SHAPES if shape.name == "two columns of dates").data
    brought = bring_in(data)
    question = asked(data)[0]
    how = settled(question, brought.how, None)
    result = run_csv(data)
    again = bring_in(data, how)
    assert question.key in [one.key for one in every_question(again, result)]
    assert question.key not in [one.key for one in open_questions(again, result)]
    assert how.settled[0].answer is None


def test_there_are_many_shapes_and_each_says_what_is_right() -> None:
    """Each is read, asked about or refused above, as it says itself."""
    told = Counter("refused" if one.refused else "asked" if one.asks else "read" for one in SHAPES)
    assert len({one.name for one in SHAPES}) == len(SHAPES) >= 120
    assert told["refused"] >= 2
    assert told["asked"] >= 15
    assert told["read"] >= 100
    assert all(one.expected for one in SHAPES if not one.refused and not one.asks)
