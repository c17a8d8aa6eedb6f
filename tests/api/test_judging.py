"""Judging over the API: worked on in the background, stopped, kept for the revision."""

from __future__ import annotations

import time
from typing import Any

import numpy as np
from flask.testing import FlaskClient

from tests.api.test_api import begin, with_entry
from tests.help import daily_csv

VALUES = np.round(200 + 30 * np.sin(np.arange(90) * 2 * np.pi / 7) + np.random.default_rng(8).normal(0, 3, 90), 1)


def judged(client: FlaskClient, path: str) -> Any:
    while True:
        told = client.get(path).json
        if told.get("work") is None or told["work"]["stage"] not in ("waiting", "working"):
            return told
        time.sleep(0.1)


def test_a_projection_is_judged_in_the_background_and_kept(client: FlaskClient) -> None:
    bench = begin(client, daily_csv(VALUES.tolist()))
    study = f"/api/studies/{bench['study']['id']}"
    assert client.get(f"{study}/judging").status_code == 422
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
    assert client.get(f"{study}/judging?ahead=7&starts=2&apart=7").json == told
    assert client.get(f"{study}/judging?series=none").status_code == 422
    assert client.get(f"{study}/judging?ahead=0").status_code == 422
    assert client.get(f"{study}/judging?ahead=80").status_code == 422
    stopped = client.get(f"{study}/judging?ahead=5&starts=8&apart=3").json["work"]
    client.delete(f"/api/work/{stopped['key']}")
    assert judged(client, f"{study}/judging?ahead=5&starts=8&apart=3")["work"]["stage"] in ("stopped", "done")
