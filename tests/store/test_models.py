"""What is kept against plain models of it: lists in memory, whatever is done in whichever order."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import Engine

from tests.store.test_keeping import filled
from tests.store.test_rot import opened
from zembra.core.errors import Refusal
from zembra.core.study.followup import Noted
from zembra.store.errors import NotKept, Stale
from zembra.store.notes import keep_notes, kept_notes, redo_note, undo_note
from zembra.store.people import add_person, people, person_with, remove_person
from zembra.store.studies import copy_study, edit_study, kept_study, redo_study, undo_study

PERIODS = ["2026-01-01", "2026-01-02", "2026-01-03"]


@pytest.fixture(scope="module")
def engine(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Engine]:
    with opened(filled(tmp_path_factory.mktemp("models"))) as found:
        yield found


many = settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
note_steps = st.lists(
    st.tuples(
        st.sampled_from(["note", "undo", "redo"]),
        st.integers(0, 1),
        st.lists(st.sampled_from(PERIODS), min_size=1, max_size=3, unique=True),
        st.sampled_from(["fog", "strike", ""]),
    ),
    max_size=12,
)


@many
@given(note_steps)
def test_notes_are_those_of_a_list_with_undo(engine: Engine, steps: list[tuple[str, int, list[str], str]]) -> None:
    studies = [copy_study(engine, 1).study.id or 0 for _ in range(2)]
    done: list[list[dict[str, str]]] = [[], []]
    undone: list[list[dict[str, str]]] = [[], []]
    for act, which, periods, text in steps:
        if act == "note":
            keep_notes(engine, studies[which], [Noted("value", period, text) for period in periods])
            done[which].append(dict.fromkeys(periods, text))
            undone[which].clear()
        elif act == "undo":
            undo_note(engine, studies[which])
            if done[which]:
                undone[which].append(done[which].pop())
        else:
            redo_note(engine, studies[which])
            if undone[which]:
                done[which].append(undone[which].pop())
        for place, study in enumerate(studies):
            found = kept_notes(engine, study)
            newest: dict[str, str] = {}
            for step in done[place]:
                newest |= step
            assert {item.period: item.note for item in found.noted} == {p: t for p, t in newest.items() if t}
            assert (found.can_undo, found.can_redo) == (bool(done[place]), bool(undone[place]))


@many
@given(st.lists(st.tuples(st.sampled_from(["edit", "undo", "redo", "stale"]), st.integers(0, 9)), max_size=14))
def test_revisions_are_those_of_a_tree(engine: Engine, steps: list[tuple[str, int]]) -> None:
    start = copy_study(engine, 1)
    identifier = start.study.id or 0
    parents: dict[int, int | None] = {1: None}
    said = {1: start.revision.what}
    head = 1
    for act, number in steps:
        kept = kept_study(engine, identifier)
        if act == "edit":
            edit_study(engine, identifier, head, kept.ledger, kept.figure, f"edit {number}", None, None)
            new = max(parents) + 1
            parents[new], said[new], head = head, f"edit {number}", new
        elif act == "undo":
            undo_study(engine, identifier, head)
            head = parents[head] or head
        elif act == "redo":
            redo_study(engine, identifier, head)
            head = max((child for child, parent in parents.items() if parent == head), default=head)
        else:
            with pytest.raises(Stale) as stale:
                edit_study(engine, identifier, head + 50, kept.ledger, kept.figure, "too late", None, None)
            assert stale.value.head == head
        kept = kept_study(engine, identifier)
        assert (kept.study.head, kept.revision.number, kept.revision.what) == (head, head, said[head])
        assert kept.can_redo == any(parent == head for parent in parents.values())
        assert kept_study(engine, 1).study.head == 1


@many
@given(st.lists(st.tuples(st.booleans(), st.sampled_from(["Ann", "Ben", "Cleo", "ann", "Zoe"])), max_size=14))
def test_people_are_those_of_a_dictionary(engine: Engine, steps: list[tuple[bool, str]]) -> None:
    for person in people(engine):
        remove_person(engine, person.name)
    keys: dict[str, str] = {}
    for adds, name in steps:
        if adds and name in keys:
            with pytest.raises(Refusal):
                add_person(engine, name, may_change=True)
        elif adds:
            keys[name] = add_person(engine, name, may_change=name > "C")
        elif name in keys:
            gone = keys.pop(name)
            remove_person(engine, name)
            assert person_with(engine, gone) is None
        else:
            with pytest.raises(NotKept):
                remove_person(engine, name)
        assert {person.name for person in people(engine)} == set(keys)
        for who, key in keys.items():
            found = person_with(engine, key)
            assert found is not None
            assert (found.name, found.may_change) == (who, who > "C")


def test_a_key_that_nobody_has(tmp_path: Path, engine: Engine) -> None:
    assert person_with(engine, "low tide at dawn") is None
