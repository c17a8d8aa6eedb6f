"""Copies of a study for other columns, and newer files of another kind."""

from __future__ import annotations

from typing import Any

from flask.testing import FlaskClient

from tests.api.test_api import begin, bring_in
from tests.help import FIRST
from zembra.core.study.renaming import renamed_text

COLUMNS = ("Harbour Loop", "Dunlin", "Dunlin night")
WIDE = "\n".join(
    [",".join(["day", *COLUMNS])]
    + [f"2026-{1 + n // 28:02d}-{1 + n % 28:02d},{100 + n % 7},{3000 + n},{n % 5}" for n in range(56)]
).encode()


def dressed(client: FlaskClient) -> tuple[str, dict[str, Any]]:
    """A study of the first two columns, with a point kept, an average of one, a title and a dress of both."""
    bench = begin(client, WIDE)
    address = f"/api/studies/{bench['study']['id']}"
    source, *rest = bench["ledger"]["entries"]
    entries = [
        {**source, "params": {**source["params"], "series": ["Harbour Loop", "Dunlin"]}},
        *rest,
        {"id": "avg", "kind": "average", "params": {"series": ["Harbour Loop"]}},
        {"id": "out", "kind": "outliers", "params": {"kept": [{"series": "Dunlin", "period": str(FIRST)}]}},
    ]
    picture = {
        "name": "Harbour Loop for the board",
        "headings": {"title": "Harbour Loop beside Dunlin"},
        "lines": [
            {"id": "Harbour Loop", "colour": "pale lagoon", "called": "Harbour Loop, daily"},
            {"id": "avg/Harbour Loop/average", "weight": "thick"},
        ],
    }
    body = {
        "base": 1,
        "ledger": {**bench["ledger"], "entries": entries},
        "settings": {**bench["settings"], "title": "Harbour Loop", "pictures": [picture]},
        "what": "dressed",
    }
    answer = client.put(f"{address}/revision", json=body)
    assert answer.status_code == 200, answer.json
    return address, answer.json


def test_a_copy_for_other_columns_keeps_dress_and_takes_the_new_names(client: FlaskClient) -> None:
    address, first = dressed(client)
    assert set(first["options"]["other_columns"]) >= set(COLUMNS)
    names = {"Harbour Loop": "Dunlin night", "Dunlin": "Harbour Loop"}
    made = client.post(f"{address}/copy", json={"names": names})
    assert made.status_code == 201, made.json
    bench = client.get(f"/api/studies/{made.json['id']}").json
    assert sorted(one["name"] for one in bench["figure"]["series"]) == ["Dunlin night", "Harbour Loop"]
    assert not [one["problem"] for one in bench["entries"] if one["problem"]]
    entries = {one["kind"]: one["params"] for one in bench["ledger"]["entries"]}
    assert entries["average"]["series"] == ["Dunlin night"]
    assert entries["outliers"]["kept"][0]["series"] == "Harbour Loop"
    assert bench["settings"]["title"] == "Dunlin night"
    (picture,) = bench["settings"]["pictures"]
    assert picture["name"] == "Dunlin night for the board"
    assert picture["headings"]["title"] == "Dunlin night beside Harbour Loop"
    looks = {one["id"]: one for one in picture["lines"]}
    assert looks["Dunlin night"]["colour"] == "pale lagoon"
    assert looks["Dunlin night"]["called"] == "Dunlin night, daily"
    assert looks["avg/Dunlin night/average"]["weight"] == "thick"
    # the study itself stays as it was
    assert client.get(address).json["ledger"] == first["ledger"]


def test_names_are_exchanged_as_words_of_their_own() -> None:
    names = {"Dunlin": "Dunlin night", "Dunlin night": "Dunlin"}
    assert renamed_text("Dunlin, Dunlin night and Dunlins", names) == "Dunlin night, Dunlin and Dunlins"


def test_a_newer_file_of_another_kind_is_refused_with_both_names_and_its_columns(client: FlaskClient) -> None:
    address, _ = dressed(client)
    other = bring_in(client, b"month,sales\n2026-01,5\n2026-02,7\n", "other.csv").json["dataset"]["id"]
    for told in (
        client.post(f"{address}/new-rows/preview", json={"dataset_id": other}),
        client.put(f"{address}/new-rows", json={"base": 2, "dataset_id": other, "as_of": None, "waved": False}),
    ):
        assert told.status_code == 422
        assert "“other.csv” cannot be read as “riders.csv” is" in told.json["detail"]
        assert "“day” or “Harbour Loop”" in told.json["detail"]
        assert told.json["place"] == "the columns are month, sales"
        assert "as a study of its own" in told.json["todo"]
