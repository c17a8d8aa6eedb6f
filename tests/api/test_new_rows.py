"""Bringing new rows into a study, through the API."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient

from tests.api.test_api import begin, bring_in, with_entry
from tests.help import daily_csv, handed_over

RISE = [round(100 + 10 * np.sin(2 * np.pi * n / 7) + n / 5 + 2 * np.sin(n * n), 2) for n in range(120)]


def study_on(client: FlaskClient, values: list[Any], kinds: tuple[str, ...] = ()) -> tuple[str, dict[str, Any]]:
    bench = begin(client, daily_csv(values))
    path = f"/api/studies/{bench['study']['id']}"
    for kind in kinds:
        bench = client.put(f"{path}/revision", json=with_entry(bench, kind)).json
    return path, bench


def came(client: FlaskClient, data: bytes, name: str) -> int:
    return int(bring_in(client, data, name).json["dataset"]["id"])


def test_only_what_is_new_is_taken_in_and_out_again(client: FlaskClient) -> None:
    path, bench = study_on(client, [*range(10, 50)])
    dataset = came(client, b"day,riders\n2026-02-08,90\n2026-02-09,500\n2026-02-10,51\n2026-02-11,\n", "week.csv")
    told = client.post(f"{path}/new-rows/preview", json={"dataset_id": dataset}).json
    assert told["how"]["taken"] == "more"
    assert told["counts"] == {"new": 1, "revised": 2, "gone": 0, "blank": 0}
    assert "only what is new" in "".join(part["text"] for part in told["parts"])
    assert client.get(path).json["study"]["revision"] == bench["study"]["revision"]
    body = {"dataset_id": dataset, "base": bench["study"]["revision"], "waved": True, "how": told["how"]}
    after = client.put(f"{path}/new-rows", json=body).json
    (line,) = after["figure"]["series"]
    assert (line["v"][0], line["v"][38], line["v"][39], line["v"][40]) == (10, 90, 500, 51)
    assert after["study"]["what"] == "New rows taken in: week.csv"
    back = client.post(f"{path}/undo", json={"base": after["study"]["revision"]}).json
    assert back["figure"]["series"][0]["v"][38] == 48
    assert len(back["figure"]["series"][0]["v"]) == 40


def test_what_comes_next_is_read_as_what_came_last(client: FlaskClient) -> None:
    path, bench = study_on(client, [*range(10, 50)])
    for n, day in enumerate(("2026-02-10", "2026-02-11", "2026-02-12")):
        dataset = came(client, f"day,riders\n{day},{100 + n}\n2026-02-01,{60 + n}\n".encode(), f"day{n}.csv")
        body = {"dataset_id": dataset, "base": bench["study"]["revision"], "waved": True}
        answer = client.put(f"{path}/new-rows", json=body)
        assert answer.status_code == 200, answer.json
        bench = answer.json
    values = bench["figure"]["series"][0]["v"]
    assert values[-3:] == [100, 101, 102]
    assert values[31] == 62
    # what was received cannot be removed while a study stands on it
    assert client.delete(f"/api/keeping/files/{dataset}").status_code == 422
    whole = came(client, daily_csv([*range(10, 60)]), "all of it.csv")
    told = client.post(f"{path}/new-rows/preview", json={"dataset_id": whole}).json
    assert told["how"]["taken"] == "whole"
    assert told["counts"] == {"new": 7, "revised": 4, "gone": 0, "blank": 0}
    assert {row["period"] for row in told["rows"] if row["kind"] == "revised"} == {
        "2026-02-01", "2026-02-10", "2026-02-11", "2026-02-12",
    }  # fmt: skip


def test_a_number_that_is_blank_or_gone_follows_the_sentence(client: FlaskClient) -> None:
    path, bench = study_on(client, [*range(10, 50)])
    rows = [f"2026-01-{n:02d},{9 + n}" for n in range(1, 32)] + ["2026-02-01,", "2026-02-04,44"]
    dataset = came(client, "\n".join(["day,riders", *rows]).encode(), "shorter.csv")
    told = client.post(f"{path}/new-rows/preview", json={"dataset_id": dataset}).json
    assert told["counts"] == {"new": 0, "revised": 0, "gone": 7, "blank": 1}
    stay = {**told["how"], "gone": "stay", "blank": "stay"}
    body = {"dataset_id": dataset, "base": bench["study"]["revision"], "waved": True, "how": stay}
    kept = client.put(f"{path}/new-rows", json=body).json
    assert kept["figure"]["series"][0]["v"] == list(range(10, 50))
    assert (
        client.put(
            f"{path}/new-rows", json={**body, "base": kept["study"]["revision"], "how": {"taken": "no"}}
        ).status_code
        == 422
    )


def test_the_projection_before_is_kept_and_scored_by_hand(client: FlaskClient) -> None:
    path, bench = study_on(client, RISE[:90], ("projection",))
    before = handed_over(client, f"{path}/handover/lines.csv", "POST").data.decode().splitlines()
    dataset = came(client, daily_csv(RISE), "later.csv")
    told = client.post(f"{path}/new-rows/preview", json={"dataset_id": dataset}).json
    (score,) = told["scores"]
    said = [
        row.split(",") for row in before if row.split(",")[2] == "projection" and float(row.split(",")[7] or 0) == 80
    ][:30]
    mean = np.array([float(row[4]) for row in said])
    actual = np.array(RISE[90:])
    step = np.abs(np.array(RISE[7:90]) - np.array(RISE[:83])).mean()
    assert score["points"] == 30
    assert score["error"] == pytest.approx(np.abs(actual - mean).mean() / step)
    assert score["bias"] == pytest.approx((actual - mean).mean())
    naive = np.array(RISE[83:90] * 5)[:30]
    assert score["naive"] == pytest.approx(np.abs(actual - naive).mean() / step)
    inside = sum(float(row[5]) <= value <= float(row[6]) for row, value in zip(said, actual, strict=True))
    assert score["inside"][0][:2] == [80, inside]
    body = {"dataset_id": dataset, "base": bench["study"]["revision"], "waved": True}
    assert client.put(f"{path}/new-rows", json=body).status_code == 200
    every = client.get(f"{path}/said").json
    # it was handed over before new rows came, and is kept once
    assert [(one["revision"], one["why"]) for one in every["issued"]] == [(2, "handed over")]
    assert every["together"][0]["error"] == pytest.approx(score["error"])
    assert every["series"][0]["said"][0]["mean"][:30] == pytest.approx(mean.tolist())


def test_two_who_bring_in_at_once(client: FlaskClient) -> None:
    path, bench = study_on(client, [*range(10, 50)])
    first, second = (came(client, daily_csv([*range(10, 50 + n)]), f"{n}.csv") for n in (1, 2))
    body = {"base": bench["study"]["revision"], "waved": True}
    assert client.put(f"{path}/new-rows", json={**body, "dataset_id": first}).status_code == 200
    lost = client.put(f"{path}/new-rows", json={**body, "dataset_id": second})
    assert lost.status_code == 409
    assert client.get(path).json["study"]["file"] == "1.csv"


def test_as_it_was_known_on_an_earlier_day(client: FlaskClient) -> None:
    path, bench = study_on(client, [*range(10, 50)])
    first_day = bench["study"]["as_of"]
    dataset = came(client, daily_csv([*range(10, 49), 99, 100]), "later.csv")
    body = {"dataset_id": dataset, "base": bench["study"]["revision"], "waved": True, "as_of": "2027-01-05"}
    taken = client.put(f"{path}/new-rows", json=body).json
    files = client.get(f"{path}/known").json["files"]
    assert [(file["file"], file["as_of"], file["now"]) for file in files] == [
        ("riders.csv", first_day, False),
        ("later.csv", "2027-01-05", True),
    ]
    back = client.put(f"{path}/known", json={"base": taken["study"]["revision"], "day": "2026-12-24"}).json
    assert (back["study"]["file"], back["study"]["as_of"]) == ("riders.csv", "2026-12-24")
    assert back["figure"]["series"][0]["v"][-1] == 49
    assert client.put(f"{path}/known", json={"base": back["study"]["revision"], "day": "1999-01-01"}).status_code == 422
    undone = client.post(f"{path}/undo", json={"base": back["study"]["revision"]}).json
    assert undone["study"]["file"] == "later.csv"


def test_what_may_be_a_mistake_is_asked_and_an_answer_reads_the_file_otherwise(client: FlaskClient) -> None:
    path, bench = study_on(client, RISE)
    thousands = daily_csv([round(1000 * value, 1) for value in [*RISE, 131.5]])
    dataset = came(client, thousands, "thousands.csv")
    asked = client.post(f"{path}/new-rows/preview", json={"dataset_id": dataset}).json
    (question,) = asked["questions"]
    assert question["key"].startswith("rows:scale:1000")
    body = {"dataset_id": dataset, "base": bench["study"]["revision"]}
    refused = client.put(f"{path}/new-rows", json=body)
    assert refused.status_code == 422
    assert "Questions about the file are open" in refused.json["detail"]
    answer = next(answer for answer in question["answers"] if "bring them back" in answer["label"])
    said = {"read": answer["read"], "how": answer["how"]}
    again = client.post(f"{path}/new-rows/preview", json={"dataset_id": dataset, **said}).json
    assert (again["questions"], again["counts"]["new"], again["counts"]["revised"]) == ([], 1, 0)
    taken = client.put(f"{path}/new-rows", json={**body, **said}).json
    assert taken["figure"]["series"][0]["v"][-2:] == pytest.approx([RISE[-1], 131.5])
    # what was answered holds for one file: the next is asked about again, and one in the old unit is not
    base = taken["study"]["revision"]
    longer = came(client, daily_csv([*RISE, 131.5, 132.5]), "plain.csv")
    plain = client.post(f"{path}/new-rows/preview", json={"dataset_id": longer}).json
    assert (plain["questions"], plain["counts"]["new"]) == ([], 1)
    wrong = came(client, daily_csv([round(1000 * value, 1) for value in [*RISE, 131.5, 132.5]]), "again.csv")
    assert client.post(f"{path}/new-rows/preview", json={"dataset_id": wrong}).json["questions"]
    assert client.put(f"{path}/new-rows", json={"dataset_id": wrong, "base": base}).status_code == 422


@pytest.mark.parametrize(("was", "now", "ahead"), [("Z", "+01:00", 1), ("+01:00", "Z", -1)])
def test_the_same_moments_on_another_clock_are_the_same_moments(
    client: FlaskClient, was: str, now: str, ahead: int
) -> None:
    def rows(offset: str, hours: int, first: int) -> bytes:
        start = np.datetime64("2025-01-10T00:00") + np.timedelta64(first, "h")
        stamps = start + np.arange(hours).astype("timedelta64[h]")
        return "\n".join(["at,load", *(f"{stamp}{offset},{n * 7 % 13}.5" for n, stamp in enumerate(stamps))]).encode()

    bench = begin(client, rows(was, 48, 0))
    path = f"/api/studies/{bench['study']['id']}"
    dataset = came(client, rows(now, 60, ahead), "later.csv")
    told = client.post(f"{path}/new-rows/preview", json={"dataset_id": dataset}).json
    assert (told["questions"], told["counts"]) == ([], {"new": 12, "revised": 0, "gone": 0, "blank": 0})
