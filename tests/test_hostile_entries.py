"""A package whose entry kinds crash, hang, grow, lie and end: each costs its own entry, in words, and the server goes on."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from tests.test_own_entries import PAGE
from zembra.demo import demo_file

# name: what its `on_line` does, and what is said of it
HOSTILE = {
    "crash": ("os.kill(os.getpid(), signal.SIGSEGV)", "SIGSEGV"),
    "leave": ("os._exit(3)", "exit status 3"),
    "exit": ("sys.exit(0)", "SystemExit"),
    "hang": ("re.match('(a+)+$', 'a' * 64 + 'b')", "is not done within 2 seconds"),
    "sleep": ("time.sleep(3600)", "is not done within 2 seconds"),
    "grow": ("held = [b'x' * 50_000_000 for _ in range(400)]", "needs more than 700 MB"),
    "half": ("raise Refusal('half a letter: \\ud800')", "half a letter: ?"),
    "short": ("return self.drawn(line, study, np.zeros(line.periods.size - 1))", "periods"),
    "infinite": ("return self.drawn(line, study, np.full(line.periods.size, np.inf))", "the number inf"),
    "complex": ("return self.drawn(line, study, np.full(line.periods.size, 1j))", "complex128"),
    "objects": ("return self.drawn(line, study, np.full(line.periods.size, 'x', dtype=object))", "object"),
    "unlike": ("return LineResult(line=replace(line, value=line.value[:-1]))", "periods"),
    "nothing": ("return None", "on_line gives NoneType"),
    "letters": ("return LineResult(warnings=('\\udcff',), touched=1)", ""),
    "print": ("print('not an answer' * 1000); return LineResult(touched=1)", ""),
}
ENDLESS = ["hang", "sleep"]
TEMPLATE = """
class {title}(Drift):
    kind: ClassVar[str] = "acme:{name}"

    def on_line(self, line, study):
        {does}
"""
DRAWN = """
    def drawn(self, line, study, value):
        return LineResult(shapes=(Curve(id="x", entry=study.entry_id, series=line.name, name="x", kind=self.kind, periods=line.periods, value=value),))
"""
MORE = """
class Word(Drift):
    kind: ClassVar[str] = "acme:word"

    def template(self):
        os._exit(4)

class Strict(Drift):
    kind: ClassVar[str] = "acme:strict"

    @model_validator(mode="after")
    def _valid(self):
        sys.exit(0)
"""
DRIVE = """
import json, sys, threading
from datetime import date
from pathlib import Path
from zembra.core.ledger.registry import kinds

# the first requests after a start come at once
told, failed = [], []
def first():
    try:
        told.append(len(kinds()))
    except BaseException as error:
        failed.append(error)
threads = [threading.Thread(target=first) for _ in range(8)]
for thread in threads: thread.start()
for thread in threads: thread.join()
assert not failed and len(set(told)) == 1, failed
assert "acme:gone" not in kinds()

from tests.help import answered
from zembra.api import create_app
from zembra.store.home import Home

home = Home(Path("home")); home.make()
app = create_app(home.database, lambda: date(2026, 10, 31))
client = app.test_client()
import io
brought = answered(client, client.post("/api/datasets", data={"file": (io.BytesIO(Path("sailings.csv").read_bytes()), "s.csv")})).json
body = {"dataset_id": brought["dataset"]["id"], "name": "S", "ledger": brought["ledger"], "as_of": "2026-10-31"}
bench = client.post("/api/studies", json=body).json
path = f"/api/studies/{bench['study']['id']}"
said = {}
for name in sys.argv[1:]:
    ledger = json.loads(json.dumps(bench["ledger"]))
    ledger["entries"] += [{"id": "d", "kind": f"acme:{name}", "params": {}}, {"id": "a", "kind": "average", "params": {}}]
    answer = client.post(f"{path}/preview", json={"ledger": ledger, "settings": bench["settings"]})
    assert answer.status_code in (200, 422), (name, answer.status_code, answer.data)
    if answer.status_code == 422:
        said[name] = answer.json["detail"]
        continue
    entries = {entry["id"]: entry for entry in answer.json["entries"]}
    said[name] = json.dumps(entries["d"]["problem"])
    # what stands behind it is carried out
    assert entries["a"]["problem"] is None, entries["a"]
assert client.get(path).status_code == 200
print(json.dumps(said))
"""


@pytest.fixture(scope="module")
def packages(tmp_path_factory: pytest.TempPathFactory) -> Path:
    code = re.search(r"```python\n(.*?)```", PAGE.read_text(), re.DOTALL)
    assert code
    place = tmp_path_factory.mktemp("hostile")
    kinds = [TEMPLATE.format(title=name.title(), name=name, does=does) for name, (does, _) in HOSTILE.items()]
    imports = (
        "import os, re, signal, sys, time\nfrom dataclasses import replace\nfrom pydantic import model_validator\n"
    )
    text = code[1].replace("from collections.abc", imports + "from collections.abc", 1)
    (place / "acme_hostile.py").write_text("\n".join([text, DRAWN.strip("\n"), *kinds, MORE]))
    (place / "acme_gone.py").write_text("import os; os._exit(5)")
    about = place / "acme-1.0.dist-info"
    about.mkdir()
    (about / "METADATA").write_text("Metadata-Version: 2.1\nName: acme\nVersion: 1.0\n")
    names = [*HOSTILE, "word", "strict"]
    points = [f"{name} = acme_hostile:{name.title()}" for name in names]
    (about / "entry_points.txt").write_text("\n".join(["[zembra.entries]", *points, "gone = acme_gone:Gone", ""]))
    return place


def test_each_costs_its_own_entry(tmp_path: Path, packages: Path) -> None:
    (tmp_path / "sailings.csv").write_bytes(demo_file("sailings.csv"))
    root = Path(__file__).parents[1]
    said: dict[str, str] = {}
    # what never ends is ended soon, anything else may take as long as it takes here
    for seconds, names in (
        ("2", ENDLESS),
        ("900", [name for name in (*HOSTILE, "word", "strict") if name not in ENDLESS]),
    ):
        environment = {
            **os.environ,
            "PYTHONPATH": os.pathsep.join([str(packages), str(root)]),
            "ZEMBRA_PACKAGE_SECONDS": seconds,
            "ZEMBRA_MOST_RUN_MB": "700",
        }
        done = subprocess.run(
            [sys.executable, "-c", DRIVE.replace('Path("home")', f'Path("home-{seconds}")'), *names],
            cwd=tmp_path, env=environment, capture_output=True, text=True, check=False,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr[-3000:]
        said |= json.loads(done.stdout.splitlines()[-1])
    for name, (_, words) in HOSTILE.items():
        assert words in said[name], (name, said[name])
        if words:
            assert "acme 1.0" in said[name] or name == "half", (name, said[name])
        else:
            assert said[name] == "null", (name, said[name])
    assert "exit status 4" in said["word"]
    assert "SystemExit" in said["strict"]
