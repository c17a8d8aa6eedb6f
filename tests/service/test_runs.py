"""What a slow entry makes elsewhere is what it makes here."""

from __future__ import annotations

import math
import threading
from collections.abc import Callable
from datetime import date
from pathlib import Path

import numpy as np
import pytest

from tests.api.test_api import begin, with_entry
from tests.help import AS_OF, daily_csv, run_csv, smoothing
from zembra.api import create_app
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.methods import FiveMethods
from zembra.core.entries.projections.projection import Projection
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.lineentry import LineResult, directly
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run
from zembra.service.process_pools import ENTRIES
from zembra.service.runs import Runs, make_lines
from zembra.work.executor import run_one


def test_what_another_process_makes_is_what_is_made_here() -> None:
    rng = np.random.default_rng(4)
    values = (50 + 9 * np.sin(np.arange(80) * 2 * np.pi / 7) + rng.normal(0, 2, 80)).round(2).tolist()
    begun = run_csv(daily_csv(values))
    entry = smoothing(ahead=7, season=7, method=FiveMethods())
    ledger = Ledger(entries=(*(record(r.entry, r.id) for r in begun.reports), record(entry, "p")))
    memo = Memo()
    waiting = run(begun.state.observations, ledger, date(2026, 10, 31), memo=memo, defer=True)
    (pending,) = waiting.pending
    (task,) = pending.tasks
    found: list[tuple[int, object]] = []
    run_one(
        ENTRIES,
        make_lines,
        pending.entry,
        pending.tasks,
        name="the projection",
        on_report=lambda _, __, made: found.append(made),
    )
    ((place, there),), here = found, directly(entry, task.line, task.study)
    assert place == 0
    assert isinstance(there, LineResult)
    assert isinstance(here, LineResult)
    for a, b in zip(there.arrays(), here.arrays(), strict=True):
        np.testing.assert_array_equal(a, b)
    memo.put(task.key, there, task.line.arrays())
    done = run(begun.state.observations, ledger, date(2026, 10, 31), memo=memo, defer=True)
    assert not done.pending
    assert done.reports[-1].outcome.touched == 80


def test_a_run_that_cannot_be_remembered_ends_in_words(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    app = create_app(tmp_path / "zembra.db", lambda: AS_OF)
    client, runs = app.test_client(), app.extensions["zembra"].runs
    study = f"/api/studies/{begin(client, daily_csv([200 + n % 7 * 9 for n in range(90)]))['study']['id']}"
    edit = with_entry(client.get(study).json, "projection", {"method": {"kind": "last"}})
    monkeypatch.setattr(Projection, "seconds_on", lambda *_: math.inf)
    assert Runs.run.__kwdefaults__ is not None
    monkeypatch.setitem(Runs.run.__kwdefaults__, "patience", 20.0)
    monkeypatch.setattr(runs.memo, "put", lambda *_: None)
    answer = client.put(f"{study}/revision", json=edit)
    assert answer.status_code == 422
    assert "more than can be remembered" in answer.json["detail"]


def test_a_preview_leaves_the_work_of_what_is_kept_alone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    app = create_app(tmp_path / "zembra.db", lambda: AS_OF)
    client, shared = app.test_client(), app.extensions["zembra"]
    study = f"/api/studies/{begin(client, daily_csv([200 + n % 7 * 9 for n in range(90)]))['study']['id']}"
    monkeypatch.setattr(Projection, "seconds_on", lambda *_: math.inf)
    gate = threading.Event()

    def held_up(*_: object, check: Callable[[], None], **__: object) -> None:
        while not gate.wait(0.05):
            check()

    monkeypatch.setattr("zembra.service.runs.run_one", held_up)
    try:
        begun = client.get(study).json
        kept = client.put(f"{study}/revision", json=with_entry(begun, "projection")).json
        (work,) = [entry["work"]["key"] for entry in kept["entries"] if entry["work"]]
        for ahead in (5, 6):
            edit = with_entry(begun, "projection", {"ahead": {"kind": "periods", "count": ahead}})
            previewed = client.post(f"{study}/preview", json={name: edit[name] for name in ("ledger", "settings")}).json
            (other,) = {entry["work"]["key"] for entry in previewed["entries"] if entry["work"]} - {work}
            assert client.get(f"/api/work/{other}").json["stage"] in ("waiting", "working")
        # of two previews the newer takes the place of the older; what is kept goes on
        assert client.get(f"/api/work/{work}").json["stage"] in ("waiting", "working")
    finally:
        gate.set()
        shared.queue.close()


@pytest.mark.parametrize(
    ("name", "value", "said"),
    [("run_seconds", 0, "not done within 0 seconds"), ("most_points", 10, "points of all series together")],
)
def test_a_run_of_the_server_keeps_within_what_is_set(tmp_path: Path, name: str, value: int, said: str) -> None:
    app = create_app(tmp_path / "zembra.db", lambda: AS_OF)
    runs = app.extensions["zembra"].runs
    runs._settings = runs._settings.model_copy(update={name: value})
    brought = bring_in(daily_csv(list(range(60))))
    with pytest.raises(Refusal, match=said):
        runs.carry_out(brought, first_ledger(brought.observations, brought.how, AS_OF), AS_OF, "rows.csv")
