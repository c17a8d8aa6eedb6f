"""Judging over the API: worked on in the background, stopped, kept for the revision."""

from __future__ import annotations

import time
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient

from tests.api.test_api import begin, with_entry
from tests.help import AS_OF, daily_csv
from zembra.api.app import create_app

VALUES = np.round(200 + 30 * np.sin(np.arange(90) * 2 * np.pi / 7) + np.random.default_rng(8).normal(0, 3, 90), 1)


def judged(client: FlaskClient, path: str) -> Any:
    while True:
        answer = client.post(path)
        if answer.status_code != 202:
            return answer.json
        time.sleep(0.1)


def test_a_projection_is_judged_in_the_background_and_kept(client: FlaskClient) -> None:
    bench = begin(client, daily_csv(VALUES.tolist()))
    study = f"/api/studies/{bench['study']['id']}"
    assert client.post(f"{study}/judging").status_code == 422
    words = {
        "ahead": {"kind": "periods", "count": 7},
        "method": {"kind": "last-season"},
        "season": {"kind": "length", "season": 7},
    }
    client.put(f"{study}/revision", json=with_entry(bench, "projection", words))
    told = judged(client, f"{study}/judging?ahead=7&starts=2&apart=7")
    assert "holding back 7 days from 2 starting points" in "".join(part["text"] for part in told["parts"])
    own = next(one for one in told["candidates"] if one["own"])
    errors = np.concatenate([VALUES[n : n + 7] - VALUES[n - 7 : n] for n in (76, 83)])
    np.testing.assert_allclose(own["mae"], np.abs(errors).mean())
    np.testing.assert_allclose(own["said"][1]["mean"], VALUES[76:83])
    assert told["starts"][1]["actual"] == VALUES[83:].tolist()
    theta = next(one for one in told["candidates"] if one["key"] == "method theta")
    assert theta["params"] == {"method": {"kind": "theta"}}
    # kept for the revision: at once when it is asked for again
    assert client.post(f"{study}/judging?ahead=7&starts=2&apart=7").json == told
    assert client.post(f"{study}/judging?series=none").status_code == 422
    assert client.post(f"{study}/judging?ahead=0").status_code == 422
    assert "too short to hold that much back" in judged(client, f"{study}/judging?ahead=80")["detail"]
    under_way = client.post(f"{study}/judging?ahead=5&starts=8&apart=3")
    assert under_way.status_code == 202
    work = f"/api/work/{under_way.json['key']}"
    so_far = client.get(f"{work}/so-far").json
    assert so_far["names"] == told["names"]
    assert all(one["mae"] for one in so_far["candidates"] if one["done"])
    client.delete(work)
    # what was stopped stays as far as it came, and goes on when it is begun again
    stopped = client.post(f"{study}/judging?ahead=5&starts=8&apart=3")
    assert (stopped.status_code, stopped.json["stage"]) == (202, "stopped")
    assert client.get(f"{work}/so-far").json.keys() == told.keys()
    assert client.post(work).json["stage"] in ("waiting", "working")
    assert len(judged(client, f"{study}/judging?ahead=5&starts=8&apart=3")["candidates"]) == len(told["candidates"])


def test_every_series_their_sum_and_what_is_kept_after_a_restart(
    client: FlaskClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = [
        f"{date(2026, 1, 1) + timedelta(n)},{route},{value * times}"
        for route, times in (("North Head", 1), ("Outer Isles", 2))
        for n, value in enumerate(VALUES.tolist())
    ]
    bench = begin(client, "\n".join(["day,route,riders", *rows]).encode())
    study = f"/api/studies/{bench['study']['id']}"
    words = {"ahead": {"kind": "periods", "count": 7}, "method": {"kind": "last-season"}}
    client.put(f"{study}/revision", json=with_entry(bench, "projection", words))
    asked = "ahead=7&starts=1&apart=7"
    glance = judged(client, f"{study}/judging/series?{asked}")
    assert {row["series"] for row in glance["rows"]} == {"North Head", "Outer Isles"}
    assert glance["of"] == 2
    one = judged(client, f"{study}/judging?{asked}&series=North%20Head")
    assert glance["rows"][0]["error"] == one["candidates"][0]["mase"]
    together = judged(client, f"{study}/judging?{asked}&together=true")
    assert together["series"] == ""
    np.testing.assert_allclose(together["v"], 3 * VALUES)
    errors = 3 * (VALUES[83:90] - VALUES[76:83])
    by_key = {candidate["key"]: candidate for candidate in together["candidates"]}
    np.testing.assert_allclose([by_key["own"]["mae"], by_key["each"]["mae"]], np.abs(errors).mean())
    assert by_key["each"]["params"] == {}
    # started anew on the same file: nothing is worked out again
    monkeypatch.setattr("zembra.service.judging.JUDGING", None)
    again = create_app(tmp_path / "test.db", lambda: AS_OF).test_client()
    assert again.post(f"{study}/judging/series?{asked}").json == glance
    assert again.post(f"{study}/judging?{asked}&together=true").json == together
    # a reading makes no verdict old, a repair does
    client.put(f"{study}/revision", json=with_entry(client.get(study).json, "average"))
    assert again.post(f"{study}/judging?{asked}&together=true").json == together
    monkeypatch.undo()
    client.put(f"{study}/revision", json=with_entry(client.get(study).json, "outliers"))
    assert again.post(f"{study}/judging?{asked}&together=true").status_code == 202
