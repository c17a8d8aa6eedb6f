"""All series of a study, through the API: what is planted is counted, found, drawn and handed over."""

from __future__ import annotations

import io
from datetime import date, timedelta
from typing import Any

import numpy as np
import openpyxl
import polars as pl
import pytest
from flask.testing import FlaskClient

from tests.api.test_api import bring_in
from tests.help import AS_OF
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.ledger.model import record

SERIES, DAYS = 60, 120
FIRST = AS_OF - timedelta(DAYS)
PLANTED = {"shift": (7, 31), "silent": (12,), "blank": (20, 21), "outside": (44,)}


def landings() -> bytes:
    """Made-up landings by fare; in some the level steps, the rows stop, the newest are blank, or the newest is far off."""
    rng = np.random.default_rng(3)
    rows = ["day,landing,riders"]
    for n in range(SERIES):
        value = 200 + n + 10 * np.sin(2 * np.pi * np.arange(DAYS) / 7) + rng.normal(0, 3, DAYS)
        if n in PLANTED["shift"]:
            value[-25:] += 80
        for at in range(DAYS):
            if n in PLANTED["silent"] and at >= DAYS - 40:
                break
            cell = f"{value[at]:.1f}"
            if n in PLANTED["outside"] and at == DAYS - 1:
                cell = "900"
            if n in PLANTED["blank"] and DAYS - 6 <= at < DAYS - 3:
                cell = ""
            rows.append(f"{FIRST + timedelta(at)},landing {n:02d},{cell}")
    return "\n".join(rows).encode()


@pytest.fixture
def study(client: FlaskClient) -> str:
    told = bring_in(client, landings(), "landings.csv").json
    ledger = told["ledger"]
    ledger["entries"][0]["params"]["series"] = ["landing 00", "landing 01"]
    entries = (Shifts(shortest=14), Average(window=Window(length=28, need=20)), Band())
    ledger["entries"] += [record(entry, f"e{n}").model_dump(mode="json") for n, entry in enumerate(entries)]
    body = {"dataset_id": told["dataset"]["id"], "name": "Landings", "ledger": ledger, "as_of": AS_OF.isoformat()}
    answer = client.post("/api/studies", json=body)
    assert answer.status_code == 201, answer.json
    return f"/api/studies/{answer.json['study']['id']}"


def carried_out(client: FlaskClient, path: str) -> Any:
    work = client.post(f"{path}/all-series").json
    shared = client.application.extensions["zembra"]
    assert shared.queue.get(work["key"]).finished.wait(120)
    told = client.get(f"{path}/all-series").json
    assert told["work"]["stage"] == "done", told
    return told


def counts_of(client: FlaskClient, address: str) -> dict[str, int]:
    return {look["name"]: look["count"] for look in client.get(address).json["looks"]}


def names(client: FlaskClient, path: str, **query: Any) -> list[str]:
    return [row["series"] for row in client.get(f"{path}/all-series/rows", query_string=query).json["rows"]]


def test_what_is_planted_is_counted_and_found(client: FlaskClient, study: str) -> None:
    before = client.get(f"{study}/all-series").json
    assert (before["series"], before["known"], before["revision"]) == (SERIES, 0, None)
    assert client.get(f"{study}/all-series/looks").status_code == 422
    told = carried_out(client, study)
    assert (told["known"], told["edited"], told["failed"]) == (SERIES, False, 0)
    counts = counts_of(client, f"{study}/all-series/looks")
    for look, planted in PLANTED.items():
        expected = [f"landing {n:02d}" for n in planted]
        found = names(client, study, look=look)
        if look == "outside":
            # the band has the newest in its window: a shift lately may lie outside too
            assert set(expected) <= set(found)
        else:
            assert found == expected
            assert counts[look] == len(expected)
    looked_at = {name for look in counts if look != "nothing" for name in names(client, study, look=look, count=500)}
    assert counts["nothing"] == SERIES - len(looked_at)
    # what is lately and near the end are words
    assert counts_of(client, f"{study}/all-series/looks?lately=10&end=2")["shift"] == 0
    assert counts_of(client, f"{study}/all-series/looks?lately=10&end=2")["blank"] == 0
    # furthest out first, found by a part of the name, a page at a time
    assert names(client, study, by="away", descending=True)[0] == "landing 44"
    assert names(client, study, find="LANDING 1", by="series", start=2, count=3) == [
        f"landing {n}" for n in (12, 13, 14)
    ]
    assert client.get(f"{study}/all-series/rows?by=nonsense").status_code == 422
    assert client.get(f"{study}/all-series/rows?look=nonsense").status_code == 422
    row = client.get(f"{study}/all-series/rows?find=landing 07&columns=shift_size").json["rows"][0]
    assert row["found"][0] in ("shift", "outside")
    assert abs(row["cells"]["shift_size"] - 80) < 8
    assert len(row["spark"]) == len(row["spark_upper"]) == 90


def test_a_series_is_drawn_as_on_the_bench_and_rows_are_handed_over(client: FlaskClient, study: str) -> None:
    carried_out(client, study)
    one = client.get(f"{study}/all-series/series?series=landing 01").json
    bench = client.get(study).json
    line = next(line for line in bench["figure"]["series"] if line["name"] == "landing 01")
    assert one["value"] == line["v"]
    average = next(drawn for drawn in one["lines"] if drawn["kind"] == "average")
    curve = next(
        shape for shape in bench["figure"]["shapes"] if shape["shape"] == "curve" and shape["series"] == "landing 01"
    )
    assert average["value"][-5:] == pytest.approx(curve["v"][-5:])
    assert client.get(f"{study}/all-series/series?series=nobody").status_code == 422
    query = "look=shift&by=series"
    table = pl.read_csv(io.BytesIO(client.get(f"{study}/all-series/file?form=csv&{query}").data))
    assert table["series"].to_list() == ["landing 07", "landing 31"]
    assert pl.read_parquet(io.BytesIO(client.get(f"{study}/all-series/file?form=parquet").data)).height == SERIES
    book = openpyxl.load_workbook(io.BytesIO(client.get(f"{study}/all-series/file?form=xlsx&{query}").data))
    assert [cell.value for cell in book.active["A"]] == ["series", "landing 07", "landing 31"]


def test_an_edit_is_told_and_carried_out_again(client: FlaskClient, study: str) -> None:
    assert carried_out(client, study)["work"]["failure"] is None
    bench = client.get(study).json
    ledger = bench["ledger"]
    # other series drawn on the bench are no other study
    ledger["entries"][0]["params"]["series"] = ["landing 05"]
    body = {"base": 1, "ledger": ledger, "settings": bench["settings"], "what": "other series"}
    assert client.put(f"{study}/revision", json=body).status_code == 200
    assert not client.get(f"{study}/all-series").json["edited"]
    ledger["entries"][-1]["on"] = False
    body = {"base": 2, "ledger": ledger, "settings": bench["settings"], "what": "no band"}
    assert client.put(f"{study}/revision", json=body).status_code == 200
    assert client.get(f"{study}/all-series").json["edited"]
    told = carried_out(client, study)
    assert not told["edited"]
    assert told["revision"] == 3
    assert counts_of(client, f"{study}/all-series/looks")["outside"] == 0
    # a study that is gone for good leaves nothing
    home = client.application.extensions["zembra"].home
    assert list((home.folder / "many").iterdir())
    client.delete(study)
    assert client.delete(f"{study}/removed").status_code == 204
    assert not list((home.folder / "many").iterdir())
    assert date.fromisoformat(told["as_of"]) == AS_OF


def test_rows_are_put_on_the_follow_up_list_as_one_step(client: FlaskClient, study: str) -> None:
    carried_out(client, study)
    told = client.post(f"{study}/all-series/follow-up?look=shift").json
    assert told == {"listed": 2, "left": 0}
    assert client.post(f"{study}/all-series/follow-up?look=shift").json == {"listed": 0, "left": 2}
    items = client.get(f"{study}/follow-up").json["items"]
    asked = {item["series"]: item for item in items if item["found_by"][0].startswith("all series: ")}
    # the bench draws neither of them: what was noted is what is known
    assert sorted(asked) == ["landing 07", "landing 31"]
    newest = client.get(f"{study}/all-series/rows?find=landing 07&columns=newest").json["rows"][0]["cells"]["newest"]
    assert asked["landing 07"]["value"] == newest
    assert not asked["landing 07"]["gone"]
    assert client.post(f"{study}/follow-up/undo").json["open"] == len(items) - 2
    assert client.post(f"{study}/follow-up/redo").json["open"] == len(items)
    # as many as nobody asks about are refused
    assert client.post(f"{study}/all-series/follow-up?look=nonsense").status_code == 422


def test_columns_are_chosen_and_filtered(client: FlaskClient, study: str) -> None:
    carried_out(client, study)
    told = client.get(f"{study}/all-series").json["columns"]
    assert {"newest", "shift_day", "refused"} <= {column["name"] for column in told}
    every = ",".join(column["name"] for column in told)
    row = client.get(f"{study}/all-series/rows?columns={every}&count=1").json["rows"][0]
    assert set(row["cells"]) == set(every.split(","))
    where = '[{"column": "last", "most": "2026-10-01"}]'
    assert names(client, study, where=where) == ["landing 12"]
    where = '[{"column": "shift_size", "least": 50, "most": 100}, {"column": "shift_day", "least": "2026-09-01"}]'
    assert names(client, study, where=where) == ["landing 07", "landing 31"]
    assert names(client, study, where='[{"column": "refused", "contains": "sea"}]') == []
    for wrong in (
        "where=[",
        'where=[{"column": "spark", "least": 1}]',
        'where=[{"column": "last", "most": "someday"}]',
        "columns=nonsense",
    ):
        assert client.get(f"{study}/all-series/rows?{wrong}").status_code == 422, wrong
