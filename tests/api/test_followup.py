"""The follow-up list: what comes there, what is noted, taken back, kept, and handed over."""

from __future__ import annotations

import csv
import io
from datetime import date, datetime
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from flask.testing import FlaskClient

from tests.api.test_api import begin, with_entry
from tests.help import daily_csv, handed_over
from zembra.api import create_app

VALUES = [10.0, 11, 12, 90, 11, 10, 12, 11, 10, 13, 12, 11]
RULE = {"kind": "neighbours", "far": 50, "measure": "units"}


def begun(client: FlaskClient) -> tuple[dict[str, Any], str]:
    bench = begin(client, daily_csv(VALUES))
    path = f"/api/studies/{bench['study']['id']}"
    bench = client.put(f"{path}/revision", json=with_entry(bench, "outliers", {"rule": RULE})).json
    mark = {"side": "above", "against": {"kind": "number", "number": 12.5}, "listed": "listed"}
    return client.put(f"{path}/revision", json=with_entry(bench, "mark", mark)).json, path


def noted(client: FlaskClient, path: str, period: str, **change: Any) -> dict[str, Any]:
    answer = client.put(f"{path}/follow-up", json={"series": "riders", "period": period, **change})
    assert answer.status_code == 200, answer.json
    return {item["period"]: item for item in answer.json["items"]}


def test_what_entries_find_is_listed_newest_first_with_its_distance(client: FlaskClient) -> None:
    _, path = begun(client)
    told = client.get(f"{path}/follow-up").json
    assert [(one["period"], one["value"], one["found_by"]) for one in told["items"]] == [
        ("2026-01-10", 13, ["above 12.5"]),
        ("2026-01-04", 90, ["out: away from both neighbours"]),
    ]
    assert told["items"][0]["distance"] == 0.5
    assert (told["open"], told["asked"], told["explained"]) == (2, 0, 0)
    (card,) = client.get("/api/studies").json["studies"]
    assert card["open"] == 2


def test_notes_and_states_are_kept_and_taken_back_apart_from_the_ledger(client: FlaskClient) -> None:
    bench, path = begun(client)
    noted(client, path, "2026-01-04", note="regatta", who="RK")
    items = noted(client, path, "2026-01-04", state="explained")
    assert (items["2026-01-04"]["note"], items["2026-01-04"]["state"], items["2026-01-04"]["who"]) == (
        "regatta",
        "explained",
        "RK",
    )
    assert client.get(path).json["study"]["revision"] == bench["study"]["revision"]
    assert "2026-01-04: regatta (RK)" in handed_over(client, f"{path}/handover/method-note.txt").text
    back = client.post(f"{path}/follow-up/undo").json
    assert [one["state"] for one in back["items"]] == ["open", "open"]
    assert back["can_redo"] is True
    again = client.post(f"{path}/follow-up/redo").json
    assert again["explained"] == 1
    client.post(f"{path}/follow-up/undo")
    noted(client, path, "2026-01-10", state="asked")
    assert client.post(f"{path}/follow-up/redo").json["explained"] == 0
    # undoing an entry loses no note
    client.post(f"{path}/undo", json={"base": bench["study"]["revision"]})
    left = {one["period"]: one for one in client.get(f"{path}/follow-up").json["items"]}
    assert left["2026-01-10"]["gone"] == "no longer found by: above 12.5"
    assert (left["2026-01-10"]["state"], left["2026-01-10"]["value"]) == ("asked", 13)


def test_a_person_can_ask_about_any_period(client: FlaskClient) -> None:
    _, path = begun(client)
    items = noted(client, path, "2026-01-06", by_hand=True, note="why so few?")
    assert (items["2026-01-06"]["found_by"], items["2026-01-06"]["value"]) == (["asked by hand"], 10)
    for period, series, says in (
        ("2026-01-08", "riders", "not on the list"),
        ("2027-01-01", "riders", "no such period"),
        ("2026-01-08", "x", "no series"),
    ):
        body = {"series": series, "period": period, "by_hand": says != "not on the list"}
        answer = client.put(f"{path}/follow-up", json=body)
        assert answer.status_code == 422
        assert says in answer.json["detail"]
    assert (
        client.put(f"{path}/follow-up", json={"series": "riders", "period": "someday", "by_hand": True}).status_code
        == 422
    )


def test_the_list_is_handed_over_and_outlives_the_server(tmp_path: Path) -> None:
    database = tmp_path / "zembra.db"
    _, path = begun(create_app(database, lambda: date(2026, 3, 1)).test_client())
    client = create_app(database, lambda: date(2026, 3, 1)).test_client()
    noted(client, path, "2026-01-04", note="=SUM(1)", state="asked")
    fresh = create_app(database, lambda: date(2026, 3, 1)).test_client()
    rows = list(csv.DictReader(io.StringIO(handed_over(fresh, f"{path}/handover/follow-up.csv").text)))
    assert [(row["period"], row["state"], row["note"], row["away_by"]) for row in rows] == [
        ("2026-01-10", "open", "", "0.5"),
        ("2026-01-04", "asked", "'=SUM(1)", rows[1]["away_by"]),
    ]
    assert float(rows[1]["away_by"]) == pytest.approx(78.5)
    book = openpyxl.load_workbook(io.BytesIO(handed_over(fresh, f"{path}/handover/follow-up.xlsx").data))
    (head, first, second) = book["Follow-up"].iter_rows(values_only=True)
    assert head[:4] == ("series", "period", "value", "away by")
    assert first[1] == datetime(2026, 1, 10)
    assert (second[5], second[6]) == ("=SUM(1)", "asked")
    assert second[3] == pytest.approx(78.5)
    assert book["Follow-up"]["F3"].data_type == "s"
    assert fresh.delete(path).status_code == 204
