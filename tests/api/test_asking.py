"""What the bench asks for beside the run: stretches, order, effects, figures, jobs, ways, conditions."""

from __future__ import annotations

import io
import json
import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient

from tests.api.test_api import begin, bring_in, with_entry
from tests.help import answered, asked, daily_csv
from zembra.core.intake import bringin
from zembra.demo import demo_file
from zembra.work.queue import Cancelled, Work

SPIKED = daily_csv([*range(10, 40), 400, *range(41, 70), None, "closed", 72, ..., 74])


def at(bench: dict[str, Any]) -> str:
    return f"/api/studies/{bench['study']['id']}"


def add(client: FlaskClient, bench: dict[str, Any], kind: str, params: dict[str, Any]) -> dict[str, Any]:
    answer = client.put(f"{at(bench)}/revision", json=with_entry(bench, kind, params))
    assert answer.status_code == 200, answer.json
    return answer.json


def test_a_stretch_tells_its_cells_and_what_can_be_done(client: FlaskClient) -> None:
    bench = begin(client, SPIKED)
    told = client.get(f"{at(bench)}/stretch?series=riders&start=60&count=2").json
    assert told["title"] == "2026-03-02 to 2026-03-03"
    assert [(row["row"], row["raw"], row["received"]) for row in told["rows"]] == [
        (62, "", "blank"),
        (63, "closed", "unreadable"),
    ]
    assert told["offers"][0]["kind"] == "blanks"
    taken = next(offer for offer in told["offers"] if offer["params"]["treatment"] == {"kind": "straight"})
    after = add(client, bench, taken["kind"], taken["params"])
    assert after["entries"][-1]["touched"] == 2
    single = client.get(f"{at(bench)}/stretch?series=riders&start=30&count=1").json
    assert {offer["kind"] for offer in single["offers"]} == {"outliers", "shift", "provisional"}
    missing = client.get(f"{at(bench)}/stretch?series=riders&start=900&count=1")
    assert missing.status_code == 422
    assert "no such period" in missing.json["detail"]


def test_candidates_carry_the_points_they_speak_of(client: FlaskClient) -> None:
    bench = add(client, begin(client, SPIKED), "outliers", {})
    shown = client.get(f"{at(bench)}/evidence?entry=new-outliers").json
    table = shown["items"][0]
    (found,) = table["findings"]
    assert table["deeds"] == ["keep", "note"]
    assert (found["series"], found["period"], found["state"], found["note"]) == ("riders", "2026-01-31", "out", "")
    assert found["distance"] == pytest.approx(found["value"] - found["against"])
    params = {**bench["entries"][-1]["params"], "kept": [{"series": "riders", "period": "2026-01-31"}]}
    ledger = {**bench["ledger"]}
    ledger["entries"] = [*ledger["entries"][:-1], {**ledger["entries"][-1], "params": params}]
    body = {"ledger": ledger, "settings": bench["settings"], "looking": "new-outliers"}
    kept = client.post(f"{at(bench)}/preview", json=body).json
    assert kept["entries"][-1]["touched"] == 0
    assert kept["evidence"]["items"][0]["findings"][0]["state"] == "kept"
    unknown = {**params, "kept": [{"series": "riders", "period": "some day"}]}
    ledger["entries"][-1] = {**ledger["entries"][-1], "params": unknown}
    refused = client.post(f"{at(bench)}/preview", json={"ledger": ledger, "settings": bench["settings"]})
    assert refused.status_code == 200
    assert "some day" in refused.json["entries"][-1]["problem"]["what"]


def test_the_order_of_entries_is_told_where_it_matters(client: FlaskClient) -> None:
    bench = add(client, begin(client, SPIKED), "outliers", {})
    assert client.get(f"{at(bench)}/order").json == {"matters": []}
    bench = add(client, bench, "derive", {"what": {"kind": "change"}})
    assert client.get(f"{at(bench)}/order").json == {"matters": ["new-outliers"]}


def test_the_effect_on_a_projection_is_its_error_with_and_without(client: FlaskClient) -> None:
    rng = np.random.default_rng(3)
    values = (200 + 20 * np.sin(np.arange(120) * 2 * np.pi / 7) + rng.normal(0, 3, 120)).round(1).tolist()
    values[110] = 900.0
    bench = add(client, begin(client, daily_csv(values)), "outliers", {})
    assert client.get(f"{at(bench)}/effect?entry=new-outliers").json == {"tables": [], "waiting": False}
    named = {"method": {"kind": "smoothing-by-hand", "trend": "N"}, "ahead": {"kind": "periods", "count": 14}}
    bench = add(client, bench, "projection", named)
    while (told := client.get(f"{at(bench)}/effect?entry=new-outliers").json)["waiting"]:
        assert not told["tables"]
    (table,) = told["tables"]
    ((name, without, with_it, change),) = table["rows"]
    assert name == "riders, projection"
    assert with_it < without
    assert change == pytest.approx(100 * (with_it - without) / without)
    held = client.get(f"{at(bench)}/evidence?entry=new-projection").json["items"][1]["rows"][0]
    assert held[2] == pytest.approx(with_it)


def test_a_long_line_is_thinned_to_the_window(client: FlaskClient) -> None:
    rows = "\n".join(
        f"{stamp},{n % 97}" for n, stamp in enumerate(np.arange("2000-01-01", "2026-01-01", dtype="M8[D]"))
    )
    bench = begin(client, f"day,riders\n{rows}\n".encode())
    line = bench["figure"]["series"][0]
    assert bench["figure"]["thinned"]
    assert line["points"] == 9497
    assert len(line["t"]) == len(line["places"]) < 5000
    window = f"start={line['t'][0]}&end={line['t'][0] + 30 * 86_400_000}"
    close = client.get(f"{at(bench)}/figure?{window}").json["series"][0]
    assert close["v"][:30] == list(range(30))


def test_a_large_file_is_followed_and_can_be_stopped(
    client: FlaskClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    gate = threading.Event()
    observe = bringin.observe

    def slowly(*args: Any) -> Any:
        gate.wait(120)
        return observe(*args)

    monkeypatch.setattr(bringin, "observe", slowly)
    monkeypatch.setattr("zembra.api.waiting.PATIENCE", 0.05)
    # one that does not wait by itself
    client = FlaskClient(client.application, client.application.response_class)
    first = bring_in(client)
    assert first.status_code == 202
    work = f"/api/work/{first.json['key']}"
    while (state := client.get(work).json)["doing"] != "reading every cell":
        assert 0 <= state["share"] < 1
    assert client.delete(work).status_code == 200
    gate.set()
    while (told := client.get(f"{work}/answer")).status_code == 202:
        pass
    assert told.status_code == 422
    assert "stopped" in told.json["detail"]
    assert list((tmp_path / "incoming").iterdir()) == []
    assert client.get("/api/studies").json == {"studies": [], "damaged": [], "removed": [], "unused": []}
    second = answered(client, bring_in(client))
    assert second.status_code == 201
    assert client.get("/api/work/none/answer").status_code == 404


def test_a_file_stopped_while_it_is_being_kept_is_not_kept(
    client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    stopped: list[str] = []

    def progress(self: Work, stage: str, share: float) -> None:
        if share == 0.99:
            stopped.append(stage)
            raise Cancelled

    monkeypatch.setattr(Work, "progress", progress)
    answer = bring_in(client)
    assert answer.status_code == 422
    assert stopped == ["writing the file to the disk"]
    assert client.get("/api/studies").json["unused"] == []


def test_a_way_of_reading_is_kept_and_used_for_the_next_file_like_it(client: FlaskClient) -> None:
    rows = "\n".join(f"0{d}/0{m}/2026,{d + m}" for m in range(1, 4) for d in range(1, 6))
    told = bring_in(client, f"day,riders\n{rows}\n".encode()).json
    assert told["how"]["dates"]["form"] == "day-first"
    assert told["questions"][0]["answers"] == ["day first: 2 Jan 2026", "month first: 1 Feb 2026"]
    how = {**told["how"], "dates": {**told["how"]["dates"], "form": "month-first"}}
    body = {"name": "the American report", "dataset_id": told["dataset"]["id"], "how": how, "ledger": told["ledger"]}
    assert client.post("/api/ways", json=body).status_code == 201
    again = bring_in(client, f"day,riders\n{rows}\n04/06/2026,9\n".encode(), "next.csv").json
    assert again["how"]["dates"]["form"] == "month-first"
    assert "the American report" in again["notices"][0]["text"]
    days = "\n".join(f"{day}/01/2026,{day}" for day in range(13, 25))
    other = bring_in(client, f"day,riders\n{days}\n".encode(), "other.csv").json
    assert other["how"]["dates"]["form"] == "day-first"
    assert "does not fit this file" in other["notices"][0]["text"]
    (way,) = client.get("/api/ways").json["ways"]
    assert client.delete(f"/api/ways/{way['id']}").status_code == 204
    assert client.get("/api/ways").json == {"ways": []}
    assert client.delete("/api/ways/99").status_code == 404


def understood(client: FlaskClient, told: dict[str, Any], **asked: Any) -> Any:
    return client.post(f"/api/datasets/{told['dataset']['id']}/understanding", json=asked)


def test_another_sheet_another_kind_and_rows_kept(client: FlaskClient) -> None:
    data = {"file": (io.BytesIO(demo_file("upkeep_by_month.xlsx")), "upkeep_by_month.xlsx")}
    told = answered(client, client.post("/api/datasets", data=data)).json
    assert told["options"]["sheets"] == ["By month", "By year"]
    total = understood(client, told, table={**told["how"]["table"], "skip_last": 0}).json
    assert "Total" in total["options"]["series"]
    yearly = understood(client, told, table={"form": "workbook", "sheet": "By year", "header_row": 1}).json
    assert yearly["how"]["dates"]["form"] == "year"
    sailings = client.post("/api/demo-files/sailings.csv").json
    conditions = [
        {"column": "route", "test": "one-of", "values": ["Outer Isles", "North Head"]},
        {"column": "day", "test": "range", "low": "2026-01-01", "high": "2026-03-31"},
        {"column": "passengers", "test": "not-one-of", "values": ["error"]},
        {"column": "route", "test": "contains", "values": ["isles"]},
    ]
    kept = understood(client, sailings, how={**sailings["how"], "keep": conditions}).json
    assert kept["options"]["series"] == ["Outer Isles"]
    assert kept["rows"]["height"] == sailings["rows"]["height"]
    assert any("rows left out by the conditions" in notice["text"] for notice in kept["notices"])
    assert [s["name"] for s in kept["sentences"]][-4:] == [f"keep.{n}" for n in range(4)]
    counts = {count["key"]: count["count"] for count in kept["census"]}
    assert counts["measured"] == 90 - 2
    none = {**sailings["how"], "keep": [{"column": "route", "test": "one-of", "values": ["Nowhere"]}]}
    refused = understood(client, sailings, how=none)
    assert refused.status_code == 422
    assert "No row is left" in refused.json["detail"]
    events = understood(client, sailings, kind="events").json
    assert events["how"]["values"]["kind"] == "events"


def test_a_data_package_inside_a_json_is_read(client: FlaskClient) -> None:
    records = [{"day": f"2026-01-0{n}", "riders": n} for n in range(1, 5)]
    package = {"name": "ferry", "resources": [{"name": "riders", "data": records}]}
    told = bring_in(client, json.dumps(package).encode(), "datapackage.json").json
    assert told["how"]["table"]["form"] == "package"
    assert told["how"]["values"]["columns"] == ["riders"]


def test_a_number_that_stands_for_none_is_asked_about_with_its_unit_too() -> None:
    rows = "".join(f"2026-01-{d:02d},{'-999 €' if d in (7, 19) else f'{11 + d / 10} €'}\n" for d in range(1, 29))
    (question,) = asked(f"day,fare\n{rows}".encode())
    assert question.title.startswith("fare is -999 € in 2 rows")
    assert question.rows == (8, 20)
