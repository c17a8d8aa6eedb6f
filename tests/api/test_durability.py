"""An edit that was confirmed survives SIGKILL, and a restart finds everything."""

from __future__ import annotations

import json
import urllib.request
from typing import Any

from tests.browser.machine import Server
from tests.help import daily_csv


def call(method: str, url: str, body: object = None) -> Any:
    data = json.dumps(body).encode() if body is not None else None
    request = urllib.request.Request(url, data, {"Content-Type": "application/json"}, method=method)
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.load(answer)


def upload(url: str, data: bytes) -> Any:
    mark = "zembra-test-boundary"
    head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="r.csv"\r\n\r\n'
    body = head.encode() + data + f"\r\n--{mark}--\r\n".encode()
    headers = {"Content-Type": f"multipart/form-data; boundary={mark}"}
    with urllib.request.urlopen(urllib.request.Request(url, body, headers), timeout=60) as answer:
        return json.load(answer)


def test_sigkill_right_after_a_confirmed_edit_loses_nothing(server: Server) -> None:
    told = upload(f"{server.address}/api/datasets", daily_csv(list(range(60))))
    body = {"dataset_id": told["dataset"]["id"], "name": "Killed", "ledger": told["ledger"]}
    bench = call("POST", f"{server.address}/api/studies", body)
    path = f"/api/studies/{bench['study']['id']}"
    for round_number in range(3):
        entry = {
            "id": f"a{round_number}",
            "kind": "average",
            "params": {"window": {"kind": "periods", "length": 5 + round_number, "need": 3}},
        }
        ledger = {**bench["ledger"], "entries": [*bench["ledger"]["entries"], entry]}
        edit = {"base": bench["study"]["revision"], "ledger": ledger, "settings": bench["settings"], "what": "edit"}
        confirmed = call("PUT", f"{server.address}{path}/revision", edit)
        server.kill()
        server.start()
        bench = call("GET", f"{server.address}{path}")
        assert bench["ledger"] == confirmed["ledger"]
        assert bench["study"]["revision"] == round_number + 2
    for number in (3, 2, 1):
        bench = call("POST", f"{server.address}{path}/undo", {"base": bench["study"]["revision"]})
        assert bench["study"]["revision"] == number
