"""The API: studies and revisions, refusals as problem details, files handed over."""

from __future__ import annotations

import io
import json
from typing import Any
from urllib.parse import quote

import pytest
from flask.testing import FlaskClient

from tests.help import AS_OF, answered, daily_csv, handed_over
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.model import parse_ledger
from zembra.demo import DEMO_FILES
from zembra.service.application import Application
from zembra.store.studies import create_study

RIDERS = daily_csv([*range(10, 40), None, "closed", 42, ..., 44])


def bring_in(client: FlaskClient, data: bytes = RIDERS, name: str = "riders.csv") -> Any:
    return client.post("/api/datasets", data={"file": (io.BytesIO(data), name)})


def begin(client: FlaskClient, data: bytes = RIDERS) -> dict[str, Any]:
    told = bring_in(client, data).json
    body = {"dataset_id": told["dataset"]["id"], "name": "Riders", "ledger": told["ledger"]}
    answer = client.post("/api/studies", json=body)
    assert answer.status_code == 201
    return answer.json


def with_entry(bench: dict[str, Any], kind: str, params: dict[str, Any] | None = None) -> dict[str, Any]:
    entry = {"id": f"new-{kind}", "kind": kind, "params": params or {}}
    ledger = {**bench["ledger"], "entries": [*bench["ledger"]["entries"], entry]}
    return {
        "base": bench["study"]["revision"],
        "ledger": ledger,
        "settings": bench["settings"],
        "what": f"added {kind}",
    }


def test_bringing_in_says_what_was_understood(client: FlaskClient) -> None:
    told = bring_in(client).json
    assert told["rows"]["roles"] == ["date", "number"]
    assert told["rows"]["numbers"][0] == 2
    assert [sentence["name"] for sentence in told["sentences"]] == ["table", "dates", "series", "values"]
    assert [entry["kind"] for entry in told["entries"]] == ["source", "calendar"]
    counts = {count["key"]: count["count"] for count in told["census"]}
    assert (counts["blank"], counts["absent"], counts["unreadable"]) == (1, 1, 1)


def test_the_same_bytes_are_kept_once(client: FlaskClient) -> None:
    first, again = bring_in(client).json, bring_in(client).json
    assert first["dataset"]["id"] == again["dataset"]["id"]


def test_another_way_of_reading_is_tried_and_refused_with_its_place(client: FlaskClient) -> None:
    told = bring_in(client).json
    path = f"/api/datasets/{told['dataset']['id']}/understanding"
    how = {**told["how"], "dates": {"column": "riders", "form": "iso-day"}}
    refused = client.post(path, json={"how": how})
    assert refused.status_code == 422
    assert refused.mimetype == "application/problem+json"
    assert "No cell of riders is a date" in refused.json["detail"]
    assert "row 2" in refused.json["place"]
    assert client.post(path, json={}).status_code == 200


def test_edit_undo_redo_reach_back_to_the_beginning(client: FlaskClient) -> None:
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    for kind in ("blanks", "average"):
        params = {"window": {"kind": "periods", "length": 5, "need": 3}} if kind == "average" else {}
        bench = client.put(f"{study}/revision", json=with_entry(bench, kind, params)).json
    assert [entry["kind"] for entry in bench["entries"]] == ["source", "calendar", "blanks", "average"]
    revision = bench["study"]["revision"]
    for _ in range(3):
        bench = client.post(f"{study}/undo", json={"base": bench["study"]["revision"]}).json
    assert len(bench["entries"]) == 2
    assert not bench["study"]["can_undo"]
    for _ in range(2):
        bench = client.post(f"{study}/redo", json={"base": bench["study"]["revision"]}).json
    assert bench["study"]["revision"] == revision
    assert not bench["study"]["can_redo"]


def test_an_edit_after_undo_opens_a_new_branch_and_keeps_the_old(client: FlaskClient) -> None:
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    client.put(f"{study}/revision", json=with_entry(bench, "blanks"))
    back = client.post(f"{study}/undo", json={"base": 2}).json
    branch = client.put(
        f"{study}/revision", json=with_entry(back, "average", {"window": {"kind": "periods", "length": 5, "need": 3}})
    ).json
    assert branch["study"]["revision"] == 3
    root = client.post(f"{study}/undo", json={"base": 3}).json
    assert root["study"]["revision"] == 1
    assert client.post(f"{study}/redo", json={"base": 1}).json["study"]["revision"] == 3


def test_a_stale_edit_gets_a_409_that_says_where_the_study_is(client: FlaskClient) -> None:
    bench = begin(client)
    path = f"/api/studies/{bench['study']['id']}/revision"
    edit = with_entry(bench, "blanks")
    assert client.put(path, json=edit).status_code == 200
    stale = client.put(path, json=edit)
    assert stale.status_code == 409
    assert stale.json["head"] == 2
    assert "added blanks" in stale.json["detail"]


def test_a_preview_changes_nothing_that_is_kept(client: FlaskClient) -> None:
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    edit = with_entry(bench, "blanks")
    shown = client.post(f"{study}/preview", json={"ledger": edit["ledger"], "settings": edit["settings"]}).json
    assert shown["entries"][2]["touched"] == 3
    assert len(client.get(study).json["entries"]) == 2


def test_an_entry_that_cannot_be_carried_out_is_told_and_the_rest_goes_on(client: FlaskClient) -> None:
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    told = client.put(
        f"{study}/revision",
        json=with_entry(bench, "average", {"window": {"kind": "periods", "length": 400, "need": 300}}),
    ).json
    assert "No day has 300 numbers" in told["entries"][-1]["problem"]["what"]
    assert told["figure"]["series"][0]["name"] == "riders"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"kind": "average", "params": {"window": 1}}, "window"),
        ({"kind": "average", "params": {"windw": 9}}, "windw"),
        ({"kind": "blanks", "params": {"series": ["Nowhere"]}}, None),
        ({"kind": "mystery", "params": {}}, "mystery"),
    ],
)
def test_a_bad_edit_is_refused_and_nothing_is_kept(
    client: FlaskClient, change: dict[str, Any], says: str | None
) -> None:
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    answer = client.put(f"{study}/revision", json=with_entry(bench, change["kind"], change["params"]))
    if says is None:
        assert "no series named “Nowhere”" in answer.json["entries"][-1]["problem"]["what"]
        return
    assert answer.status_code == 422
    assert says in answer.json["detail"].replace(" ", "")
    assert client.get(study).json["study"]["revision"] == 1


def test_files_are_handed_over(client: FlaskClient) -> None:
    bench = begin(client)
    base = f"/api/studies/{bench['study']['id']}/handover"
    points = handed_over(client, f"{base}/points.csv")
    assert points.text.startswith("series,period,raw,value,received,condition,reason,counted\n")
    assert 'filename="riders-2026-02-04-points.csv"' in points.headers["Content-Disposition"]
    assert handed_over(client, f"{base}/report.json").json["format"] == "zembra.report/1"
    assert handed_over(client, f"{base}/ledger.json").json["intake"]["dates"]["column"] == "day"
    assert "From riders.csv (SHA-256 " in handed_over(client, f"{base}/method-note.txt").text
    assert handed_over(client, f"{base}/secrets.txt").status_code == 422


def test_values_are_given_side_by_side(client: FlaskClient) -> None:
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    client.put(
        f"{study}/revision", json=with_entry(bench, "average", {"window": {"kind": "periods", "length": 5, "need": 3}})
    )
    page = client.get(f"{study}/values?start=30&count=2").json
    assert [(one["id"], one["kind"]) for one in page["every"]] == [
        ("riders", "series"),
        (page["columns"][1], "reading"),
    ]
    assert [one["name"] for one in page["every"]] == ["riders", "5-day average"]
    assert page["conditions"][0] == "ou"
    assert page["raws"][0] == ["", "closed"]
    assert page["values"][0] == [None, None]
    assert page["places"][0] == [30, 31]
    assert page["total"] == 35
    only = client.get(f"{study}/values?columns={quote(page['columns'][1])}&count=1").json
    assert len(only["values"]) == 1
    assert client.get(f"{study}/values?columns=none").status_code == 422


def test_studies_are_listed_copied_renamed_and_removed(client: FlaskClient) -> None:
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    copy = client.post(f"{study}/copy", json={"names": {}}).json
    client.put(f"/api/studies/{copy['id']}/name", json={"name": "Riders again"})
    cards = client.get("/api/studies").json["studies"]
    assert {card["study"]["name"] for card in cards} == {"Riders", "Riders again"}
    assert cards[0]["gaps"] == 3
    assert client.delete(study).status_code == 204
    assert client.get(study).status_code == 404
    listed = client.get("/api/studies").json
    assert len(listed["studies"]) == 1
    assert [one["name"] for one in listed["removed"]] == ["Riders"]
    assert client.post(f"{study}/restore").json["name"] == "Riders"
    assert client.get(study).json["ledger"] == bench["ledger"]
    assert client.delete(f"{study}/removed").status_code == 404
    client.delete(study)
    assert client.delete(f"{study}/removed").status_code == 204
    assert client.get("/api/studies").json["removed"] == []


def test_a_study_is_given_a_newer_file_and_that_is_undone(client: FlaskClient) -> None:
    bench = begin(client)
    path = f"/api/studies/{bench['study']['id']}"
    kept = client.put(f"{path}/revision", json=with_entry(bench, "average")).json
    newer = bring_in(client, daily_csv([10, 99, *range(12, 40), None, "closed", 42, ..., 44, 45, 46]), "newer.csv").json
    dataset = newer["dataset"]["id"]
    told = client.post(f"{path}/new-rows/preview", json={"dataset_id": dataset}).json
    assert told["counts"] == {"new": 2, "revised": 1, "gone": 0, "blank": 0}
    assert [(row["period"], row["was"], row["now"]) for row in told["rows"] if row["kind"] == "revised"] == [
        ("2026-01-02", 11, 99)
    ]
    body = {"base": kept["study"]["revision"], "dataset_id": dataset}
    if told["questions"]:
        assert client.put(f"{path}/new-rows", json=body).status_code == 422
    after = client.put(f"{path}/new-rows", json={**body, "waved": True}).json
    assert after["study"]["file"] == "newer.csv"
    assert after["figure"]["series"][0]["v"][-1] == 46
    assert [one["kind"] for one in after["ledger"]["entries"]] == ["source", "calendar", "average"]
    assert client.put(f"{path}/new-rows", json=body).status_code == 409
    back = client.post(f"{path}/undo", json={"base": after["study"]["revision"]}).json
    assert back["study"]["file"] == "riders.csv"
    assert back["figure"]["series"][0]["v"] == kept["figure"]["series"][0]["v"]
    other = bring_in(client, b"month,sales\n2026-01,5\n2026-02,7\n", "other.csv").json["dataset"]["id"]
    assert client.post(f"{path}/new-rows/preview", json={"dataset_id": other}).status_code == 422


def test_a_study_whose_file_nobody_was_asked_about_says_so(client: FlaskClient) -> None:
    """As one that an earlier Zembra began, which asked less."""
    data = daily_csv(list(range(40))) + b"1900-01-01,5\n"
    told = bring_in(client, data).json
    assert [one["title"] for one in told["questions"]] == ["1 row has a date far from all others."]
    shared: Application = client.application.extensions["zembra"]
    ledger = parse_ledger(json.dumps(told["ledger"]))
    kept = create_study(shared.engine, "Older", told["dataset"]["id"], ledger, FigureSettings(), AS_OF)
    path = f"/api/studies/{kept.study.id}"
    (said,) = client.get(path).json["entries"][0]["warnings"]
    assert said.startswith("1 row has a date far from all others. It is row 42")
    body = {"base": 1, "dataset_id": told["dataset"]["id"], "waved": True}
    assert client.put(f"{path}/new-rows", json=body).json["entries"][0]["warnings"] == []
    assert client.get(path).json["entries"][0]["warnings"] == []


@pytest.mark.parametrize("name", list(DEMO_FILES))
def test_every_demo_file_can_be_brought_in(client: FlaskClient, name: str) -> None:
    answer = answered(client, client.post(f"/api/demo-files/{name}"))
    assert answer.status_code == 201


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("get", "/api/studies/99", None, 404),
        ("get", "/api/nothing", None, 404),
        ("post", "/api/datasets", None, 422),
        ("post", "/api/demo-files/none.csv", None, 422),
        ("post", "/api/studies", {"dataset_id": 99, "name": "x", "ledger": {}}, 404),
        ("post", "/api/studies", {"dataset_id": "x"}, 422),
        ("post", "/api/datasets/99/understanding", {}, 404),
        ("put", "/api/studies", {}, 405),
    ],
)
def test_every_error_is_a_problem_with_a_sentence(
    client: FlaskClient, method: str, path: str, body: object, status: int
) -> None:
    answer = getattr(client, method)(path, **({"json": body} if body is not None else {}))
    assert answer.status_code == status
    assert answer.mimetype == "application/problem+json"
    assert answer.json["detail"]


def test_a_file_over_the_limit_is_refused(client: FlaskClient) -> None:
    answer = bring_in(client, b"day,riders\n" + b"2026-01-01,1\n" * 300_000)
    assert answer.status_code == 413
    assert "2 MB" in answer.json["detail"]
    assert client.get("/api/studies").json == {"studies": [], "damaged": [], "removed": [], "unused": []}


def test_a_refused_file_leaves_nothing_behind(client: FlaskClient) -> None:
    assert bring_in(client, b"name,riders\nA,1\n").status_code == 422
    assert client.get("/api/studies").json["unused"] == []
