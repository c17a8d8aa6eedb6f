"""Sums of all series: what they are made of, where they are open, and what is projected of them, against pandas."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import numpy as np
import pandas as pd
import pytest
from flask.testing import FlaskClient

from tests.api.test_all_series import carried_out
from tests.api.test_api import bring_in
from tests.help import AS_OF
from zembra.core.entries.projections.clauses.projected import AheadPeriods
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import record

DAYS = 60
FIRST = AS_OF - timedelta(DAYS - 1)
LANDINGS, FARES = 5, ("single", "return", "child")
LATE, ENDED, BLANK = ("landing 1", "child"), ("landing 2", "single"), ("landing 3", "return")


def rows(seed: int = 5) -> pd.DataFrame:
    """Landings × fares; one begins late, one ends early, one has a blank that is filled and one that is too long to be."""
    rng = np.random.default_rng(seed)
    found = []
    for n in range(LANDINGS):
        for k, fare in enumerate(FARES):
            for at in range(DAYS):
                key = (f"landing {n}", fare)
                if (key == LATE and at < 20) or (key == ENDED and at >= 40):
                    continue
                value = round(50 + 10 * n + 5 * k + 8 * np.sin(2 * np.pi * at / 7) + rng.normal(0, 1), 2)
                cell = "" if key == BLANK and (at == 10 or 25 <= at < 32) else str(value)
                found.append((f"{FIRST + timedelta(at)}", *key, "north" if n < 2 else "south", cell))
    return pd.DataFrame(found, columns=["day", "landing", "fare", "coast", "riders"])


@pytest.fixture
def study(client: FlaskClient) -> str:
    return begun(client, rows(), Blanks(longest=3), Projection(ahead=AheadPeriods(count=14)))


def begun(client: FlaskClient, frame: pd.DataFrame, *entries: Entry) -> str:
    data = frame.to_csv(index=False).encode()
    told = bring_in(client, data, "landings.csv").json
    how = {**told["how"], "series": {**told["how"]["series"], "column": "landing", "more": ["fare"]}}
    told = client.post(f"/api/datasets/{told['dataset']['id']}/understanding", json={"how": how}).json
    ledger = told["ledger"]
    ledger["entries"] += [record(entry, f"e{n}").model_dump(mode="json") for n, entry in enumerate(entries)]
    body = {"dataset_id": told["dataset"]["id"], "name": "Landings", "ledger": ledger, "as_of": AS_OF.isoformat()}
    answer = client.post("/api/studies", json=body)
    assert answer.status_code == 201, answer.json
    return f"/api/studies/{answer.json['study']['id']}"


def summed(client: FlaskClient, path: str, **words: Any) -> Any:
    answer = client.post(f"{path}/all-series/together", json={"words": words})
    assert answer.status_code == 202, answer.json
    shared = client.application.extensions["zembra"]
    assert shared.queue.get(answer.json["key"]).finished.wait(120)
    told = client.get(f"{path}/all-series/together").json
    assert told["work"]["stage"] == "done", told["work"]["failure"]
    return told


def drawn(client: FlaskClient, path: str, name: str) -> tuple[pd.Series, Any]:
    one = client.get(f"{path}/all-series/series", query_string={"series": name, "of": "sums"}).json
    return pd.Series(one["value"], index=one["period"], dtype=float), one


def points(client: FlaskClient, path: str, name: str) -> pd.Series:
    one = client.get(f"{path}/all-series/series", query_string={"series": name}).json
    return pd.Series(one["value"], index=one["period"], dtype=float)


def test_sums_are_open_where_a_part_is(client: FlaskClient, study: str) -> None:
    assert client.post(f"{study}/all-series/together", json={"words": {}}).status_code == 422
    carried_out(client, study)
    before = client.get(f"{study}/all-series/together").json
    assert [(part["name"], part["values"]) for part in before["parts"]] == [("landing", 5), ("fare", 3), ("coast", 2)]
    told = summed(client, study, by=["landing", "fare"])
    # all together and each landing; a landing and a fare are one series, which is no sum
    assert told["sums"] == 1 + LANDINGS
    assert not told["edited"]
    said = "".join(part["text"] for part in told["sentence"]["parts"])
    assert (
        said
        == "Sum by landing, then fare; a sum needs 100 % of its parts, and a part whose numbers have ended is missing from its sum."
    )
    parts = {
        name: points(client, study, name) for n in range(LANDINGS) for fare in FARES if (name := f"landing {n}, {fare}")
    }
    for n in range(LANDINGS):
        own = pd.DataFrame({fare: parts[f"landing {n}, {fare}"] for fare in FARES})
        # a part that has not begun is none yet; one that has ended is missed
        due = own.ffill().notna()
        expected = own.sum(axis=1).where(~(own.isna() & due).any(axis=1))
        found, _ = drawn(client, study, f"landing {n}")
        pd.testing.assert_series_equal(found, expected.reindex(found.index), check_names=False, rtol=1e-12)
    by_two, _ = drawn(client, study, "landing 2")
    assert by_two.notna().sum() == 40
    by_three, _ = drawn(client, study, "landing 3")
    assert by_three.isna().sum() == 7


def test_a_word_says_when_a_sum_is_not_open(client: FlaskClient, study: str) -> None:
    carried_out(client, study)
    summed(client, study, by=["coast"], need=60, ended="nothing")
    frame = rows()
    frame["number"] = pd.to_numeric(frame["riders"])
    south = frame[frame["coast"] == "south"]
    filled = points(client, study, "landing 3, return")
    expected = south.groupby("day")["number"].sum()
    day = f"{FIRST + timedelta(10)}"
    expected[day] += filled[day]
    found, _ = drawn(client, study, "south")
    pd.testing.assert_series_equal(found, expected.reindex(found.index), check_names=False, rtol=1e-12)
    assert found.notna().all()
    rows_of_sums = client.get(f"{study}/all-series/rows?of=sums&columns=newest").json
    assert sorted(row["series"] for row in rows_of_sums["rows"]) == ["all series", "north", "south"]
    assert client.get(f"{study}/all-series/looks?of=sums").status_code == 200
    assert client.post(f"{study}/all-series/follow-up?of=sums").status_code == 422
    assert client.post(f"{study}/all-series/together", json={"words": {"by": ["deck"]}}).status_code == 422


def test_the_projected_sum_stands_beside_the_sum_of_projections(client: FlaskClient, study: str) -> None:
    carried_out(client, study)
    summed(client, study, by=["landing"])
    _, one = drawn(client, study, "landing 0")
    own = next(line for line in one["lines"] if line["kind"] == "projection")
    (beside,) = one["beside"]
    assert beside["period"] == own["period"]
    total = np.zeros(14)
    for fare in FARES:
        part = client.get(f"{study}/all-series/series", query_string={"series": f"landing 0, {fare}"}).json
        total += [value for line in part["lines"] if line["kind"] == "projection" for value in line["value"]]
    np.testing.assert_allclose(beside["value"], total, rtol=1e-12)
    np.testing.assert_allclose(own["value"], total, rtol=0.05)
    # of a landing with a part that has ended there is none on days that the part does not reach
    _, short = drawn(client, study, "landing 2")
    assert all(len(line["period"]) < 14 for line in short["beside"])


def test_an_edit_is_told(client: FlaskClient, study: str) -> None:
    carried_out(client, study)
    summed(client, study, by=["fare"])
    bench = client.get(study).json
    ledger = bench["ledger"]
    ledger["entries"][-1]["on"] = False
    body = {"base": 1, "ledger": ledger, "settings": bench["settings"], "what": "no projection"}
    assert client.put(f"{study}/revision", json=body).status_code == 200
    assert client.get(f"{study}/all-series/together").json["edited"]
    assert client.post(f"{study}/all-series/together", json={"words": {"by": ["fare"]}}).status_code == 422
    carried_out(client, study)
    told = summed(client, study, by=["fare"])
    assert (told["edited"], told["sums"]) == (False, 4)
    assert drawn(client, study, "child")[1]["beside"] == []
