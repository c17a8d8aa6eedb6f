"""What an earlier Zembra kept opens as it was; the as-of day belongs to a revision and not to the calendar."""

from __future__ import annotations

import csv
import gzip
import hashlib
import io
import json
import zipfile
from datetime import date
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from flask.testing import FlaskClient
from sqlmodel import Session, select

from tests.api.test_api import begin, bring_in, with_entry
from tests.help import answered, daily_csv, handed_over, run_csv, smoothing
from zembra.api import create_app
from zembra.cli import main
from zembra.core import english
from zembra.core.entries.projections.clauses.methods import BeforeNow, FiveMethods, SmoothingByHand, Theta, UsualMean
from zembra.core.entries.projections.clauses.projected import AheadPeriods
from zembra.core.entries.projections.clauses.smoothingforms import ErrorForm, SeasonForm, TrendForm
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.bands import Spreads
from zembra.core.entries.readings.clauses.windows import Reach, Window
from zembra.core.entries.repairs.against import SetAgainst
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.against import Target
from zembra.core.entries.repairs.clauses.blanks import FilledFromNeighbours
from zembra.core.entries.repairs.clauses.derivations import LaggedChange
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.clauses.outliers import FromNeighbours, Measure, ReplacedSeasonal
from zembra.core.entries.repairs.derive import Derive
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.shared.derived import Place
from zembra.core.errors import Refusal
from zembra.core.ledger.model import entry_of, parse_ledger
from zembra.core.ledger.upgrade import upgraded
from zembra.core.projection.ahead import History
from zembra.store.database import open_database
from zembra.store.seals import seal_before, seal_of
from zembra.store.tables import Revision

KEPT = Path(__file__).parent.parent / "kept"


@pytest.mark.parametrize("version", ["first", "before-seals"])
def test_a_package_of_an_earlier_version_makes_the_same_study(tmp_path: Path, version: str) -> None:
    package = (KEPT / f"study-{version}.zip").read_bytes()
    client = create_app(tmp_path / "zembra.db", lambda: date(2031, 5, 1)).test_client()
    answer = answered(client, client.post("/api/packages", data={"file": (io.BytesIO(package), "everything.zip")}))
    assert answer.status_code == 201, answer.json
    address = f"/api/studies/{answer.json['id']}"
    with zipfile.ZipFile(io.BytesIO(package)) as archive:
        for name in ("points.csv", "lines.csv"):
            then = pl.read_csv(archive.read(f"data/{name}"), infer_schema=False)
            now = pl.read_csv(handed_over(client, f"{address}/handover/{name}").data, infer_schema=False)
            assert now.select(then.columns).equals(then), name
    (noted,) = (one for one in client.get(f"{address}/follow-up").json["items"] if one["note"])
    assert (noted["series"], noted["who"], noted["state"]) == ("Harbour Loop", "Ada", "asked")


@pytest.mark.parametrize("schema", ["0002"])
def test_a_database_of_an_earlier_version_opens_as_it_was(tmp_path: Path, schema: str) -> None:
    path = tmp_path / "zembra.db"
    path.write_bytes(gzip.decompress((KEPT / f"database-{schema}.db.gz").read_bytes()))
    client = create_app(path, lambda: date(2031, 5, 1)).test_client()
    cards = {card["study"]["name"]: card["study"] for card in client.get("/api/studies").json["studies"]}
    assert set(cards) == {"Contract price of fuel", "Upkeep by vessel"}
    fuel = cards["Contract price of fuel"]
    assert (fuel["as_of"], fuel["file"], fuel["revision"], fuel["can_redo"]) == (
        "2026-10-31",
        "fuel_contract.csv",
        1,
        True,
    )
    bench = client.post(f"/api/studies/{fuel['id']}/redo", json={"base": 1}).json
    assert bench["study"]["what"] == "edited"
    assert [entry["kind"] for entry in bench["entries"]] == ["source", "calendar", "moves"]
    assert not [entry for entry in bench["entries"] if entry["problem"]]


def test_a_database_with_ledgers_of_the_form_before_hands_over_the_same_numbers(tmp_path: Path) -> None:
    path = tmp_path / "zembra.db"
    path.write_bytes(gzip.decompress((KEPT / "database-0003.db.gz").read_bytes()))
    client = create_app(path, lambda: date(2031, 5, 1)).test_client()
    (card,) = client.get("/api/studies").json["studies"]
    study = f"/api/studies/{card['study']['id']}"
    assert [entry["touched"] for entry in client.get(study).json["entries"]] == [31, 0, 1, 0, 31, 28]
    lines = handed_over(client, f"{study}/handover/lines.csv").data
    # as the version before handed them over, but that a band claims no coverage any more
    assert hashlib.sha256(lines).hexdigest() == "f87ee7262814246e53b208a8f27368662b60a08e8489e379255625027118ff22"
    for number in range(4, 0, -1):
        client.post(f"{study}/undo", json={"base": number + 1})
    assert client.get(study).json["study"]["revision"] == 1
    assert handed_over(client, f"{study}/handover/ledger.json").json["format"] == "zembra.ledger/6"


def test_no_number_changes_because_a_day_has_passed(tmp_path: Path) -> None:
    days = [date(2026, 1, 12)]
    client = create_app(tmp_path / "zembra.db", lambda: days[0]).test_client()
    data = b"day,riders\n2026-01-05,1\n2026-01-06,2\n2026-01-07,3\n2026-01-09,5\n"
    told = bring_in(client, data).json
    assert told["as_of"] == "2026-01-12"
    calendar = {**told["ledger"]["entries"][1]["params"], "until": "as-of"}
    entries = [told["ledger"]["entries"][0], {**told["ledger"]["entries"][1], "params": calendar}]
    body = {"dataset_id": told["dataset"]["id"], "name": "Riders", "ledger": {**told["ledger"], "entries": entries}}
    study = client.post("/api/studies", json=body).json
    path = f"/api/studies/{study['study']['id']}"
    assert len(study["figure"]["series"][0]["t"]) == 8
    days[0] = date(2026, 3, 1)
    assert client.get(path).json == study
    edit = {"base": 1, "ledger": study["ledger"], "settings": study["settings"], "what": "as of", "as_of": "2026-01-10"}
    moved = client.put(f"{path}/revision", json=edit).json
    assert (moved["study"]["as_of"], len(moved["figure"]["series"][0]["t"])) == ("2026-01-10", 6)
    assert client.post(f"{path}/undo", json={"base": 2}).json["study"]["as_of"] == "2026-01-12"


def test_data_that_end_long_ago_suggest_their_own_end(client: FlaskClient) -> None:
    old = bring_in(client, b"month,riders\n2019-01,1\n2019-02,2\n2019-03,3\n").json
    assert old["as_of"] == "2019-03-31"
    assert begin(client)["study"]["as_of"] == "2026-02-04"


def test_an_entry_set_for_days_says_so_on_months(client: FlaskClient) -> None:
    bench = begin(client)
    path = f"/api/studies/{bench['study']['id']}/revision"
    kept = client.put(
        path, json=with_entry(bench, "average", {"window": {"kind": "periods", "length": 3, "need": 1}})
    ).json
    assert kept["ledger"]["entries"][2]["counted_in"] == "days"
    coarse = client.put(path, json=with_entry(kept, "coarser", {"into": "week", "partly": "provisional"})).json
    average = next(entry for entry in coarse["entries"] if entry["kind"] == "average")
    assert "set for days; they now count weeks" in average["offers"][0]["why"]
    meant = [{**one, "counted_in": None} for one in coarse["ledger"]["entries"]]
    body = {**with_entry(coarse, "average"), "ledger": {**coarse["ledger"], "entries": meant}}
    settled = client.put(path, json=body).json
    assert not next(entry for entry in settled["entries"] if entry["kind"] == "average")["offers"]


@pytest.mark.parametrize("form", [1, 2, 3, 4])
def test_a_ledger_of_an_earlier_form_is_carried_out(form: int, tmp_path: Path) -> None:
    ledger = KEPT / f"ledger-{form}.json"
    data = tmp_path / "riders.csv"
    data.write_bytes(daily_csv([10, 11, None, ..., ..., ..., ..., *range(17, 28)], date(2026, 4, 28)))
    out = tmp_path / "out"
    assert main(["run", str(ledger), "--data", str(data), "--as-of", "2026-06-01", "--out", str(out)]) == 0
    rows = list(csv.DictReader((out / "points.csv").read_text().splitlines()))
    # the first of May is a holiday, the days after it a weekend
    assert [row["period"] for row in rows][3:5] == ["2026-05-04", "2026-05-05"]
    assert parse_ledger(ledger.read_text()).entries[1].params["holidays"] == "Germany"


def test_what_was_usual_once_is_said_and_still_to_be_had(client: FlaskClient) -> None:
    ledger = parse_ledger((KEPT / "ledger-5.json").read_bytes())
    entries = {one.id: entry_of(one) for one in ledger.entries}
    assert entries["e1"] == Projection(ahead=AheadPeriods(count=5), method=UsualMean(before=BeforeNow.FIVE))
    assert entries["e2"] == Projection(ahead=AheadPeriods(count=5), method=Theta())
    values = [float(100 + 3 * (n % 7) + n % 3) for n in range(60)]
    report = run_csv(daily_csv(values), entries["e1"]).reports[-1]
    take, keep = report.outcome.offers
    assert "The usual method has changed since this ledger was made" in take.why
    was = FiveMethods().project(History(np.array(values), np.ones(60, dtype=bool), 7), 1, (80.0, 95.0))
    assert f"it said {english.number(float(f'{was.mean[0]:.6g}'))} for riders" in take.why
    assert (take.params, keep.params) == ({"method": {"kind": "usual"}}, {"method": {"kind": "five"}})
    settled = run_csv(daily_csv(values), Projection(ahead=AheadPeriods(count=5))).reports[-1]
    assert not settled.outcome.offers


def test_smoothing_became_a_method_of_a_projection() -> None:
    entries = {one.id: entry_of(one) for one in parse_ledger((KEPT / "ledger-4.json").read_bytes()).entries}
    by_hand = SmoothingByHand(error=ErrorForm.ADDITIVE, trend=TrendForm.NONE, seasonality=SeasonForm.NONE)
    assert entries["e1"] == smoothing(ahead=5, season=None, method=by_hand, levels=(90.0,))
    assert entries["e2"] == smoothing(ahead=9, season=5)


def test_how_far_a_band_reaches_became_a_clause() -> None:
    entries = {one.id: entry_of(one) for one in parse_ledger((KEPT / "ledger-3.json").read_bytes()).entries}
    window = Window(length=3, need=2)
    assert entries["e1"] == Band(width=Spreads(times=1.5), window=window)
    assert entries["e2"] == Average(window=window)


def test_words_went_into_clauses() -> None:
    entries = {one.id: entry_of(one) for one in parse_ledger((KEPT / "ledger-2.json").read_bytes()).entries}
    assert entries["e1"] == Blanks(treatment=FilledFromNeighbours(reach=1), longest=2)
    rule, then = FromNeighbours(far=40, measure=Measure.UNITS), ReplacedSeasonal(season=5)
    assert entries["e2"] == Outliers(rule=rule, then=then)
    assert entries["e3"] == Provisional(rule=LastFew(last=2))
    assert entries["e4"] == SetAgainst(against=Target(number=12))
    assert entries["e5"] == Derive(what=LaggedChange(lag=5), place=Place.BESIDE, series=("riders",))
    assert entries["e6"] == Average(window=Window(length=5, need=3, reach=Reach.CENTRED))
    assert entries["e7"] == Band()
    by_hand = SmoothingByHand(error=ErrorForm.MULTIPLICATIVE, trend=TrendForm.NONE)
    assert entries["e8"] == smoothing(ahead=3, method=by_hand)
    # of the rules shared words of one default: a rule of its own default keeps what it was
    old = {"format": "zembra.ledger/2", "entries": [{"id": "a", "kind": "outliers", "params": {"rule": "fence"}}]}
    assert upgraded(old)["entries"][0]["params"]["rule"] == {"kind": "fence", "far": 6.0}


def test_a_ledger_of_a_newer_form_is_refused_in_words() -> None:
    with pytest.raises(Refusal, match="newer Zembra"):
        parse_ledger('{"format": "zembra.ledger/99", "entries": []}')


def test_an_entry_that_is_not_known_is_shown_switched_off_and_loses_nothing(tmp_path: Path) -> None:
    path = tmp_path / "zembra.db"
    client = create_app(path, lambda: date(2026, 3, 1)).test_client()
    bench = begin(client)
    study = f"/api/studies/{bench['study']['id']}"
    kept = client.put(f"{study}/revision", json=with_entry(bench, "blanks")).json["ledger"]
    strange = {"id": "s1", "kind": "from-the-future", "on": True, "params": {"depth": 3, "{odd}": "}"}}
    wrong = {"id": "s2", "kind": "average", "on": True, "params": {"window": "wide"}}
    entries = [*kept["entries"][:2], strange, wrong, *kept["entries"][2:]]
    with Session(open_database(path)) as session:
        revision = session.exec(select(Revision).where(Revision.number == 2)).one()
        revision.ledger = json.dumps({**kept, "entries": entries})
        revision.seal = seal_of(revision, seal_before(session.connection(), revision))
        session.commit()
    client = create_app(path, lambda: date(2026, 3, 1)).test_client()
    assert client.get("/api/studies").json["damaged"] == []
    shown = client.get(study).json
    told = {entry["id"]: (entry["on"], "".join(part["text"] for part in entry["parts"])) for entry in shown["entries"]}
    assert told["s1"][0] is told["s2"][0] is False
    assert "from-the-future" in told["s1"][1]
    assert told["new-blanks"][0] is True
    record = next(item for item in shown["ledger"]["entries"] if item["id"] == "s1")
    assert record["params"] == strange["params"]
    edit = {"base": 2, "ledger": shown["ledger"], "settings": shown["settings"], "what": "title"}
    again = client.put(f"{study}/revision", json=edit).json
    assert {item["id"] for item in again["ledger"]["entries"]} == {"source", "calendar", "s1", "s2", "new-blanks"}
    forced = [{**item, "on": True} for item in shown["ledger"]["entries"]]
    refused = client.put(
        f"{study}/revision", json={**edit, "base": 3, "ledger": {**shown["ledger"], "entries": forced}}
    )
    assert refused.status_code == 422
    assert "from-the-future" in refused.json["detail"]
