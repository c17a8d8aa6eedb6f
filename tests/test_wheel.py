"""The wheel: what it declares is what it needs, and alone with that it works."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
import urllib.request
import venv
import zipfile
from collections.abc import Iterator
from importlib import metadata
from pathlib import Path

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

from tests.core.test_architecture import imported
from tests.kills import upload
from zembra.demo import demo_file

ROOT = Path(__file__).parents[1]
SOURCES = ROOT / "src" / "zembra"
OPTIONAL = {
    "cluster": {"dask", "distributed"},
    "office": {"python-pptx"},
    "pictures": {"mini-racer", "resvg-py", "typst", "fonttools"},
}


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Built of a copy: building leaves files behind."""
    place = tmp_path_factory.mktemp("wheel")
    for name in ("pyproject.toml", "README.md", "LICENSE", "NOTICE"):
        shutil.copy(ROOT / name, place)
    leave = shutil.ignore_patterns("__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "src", place / "src", ignore=leave)
    command = [sys.executable, "-m", "build", "--wheel", "--no-isolation", "--outdir", str(place / "dist"), str(place)]
    subprocess.run(command, check=True, capture_output=True)
    (found,) = (place / "dist").glob("zembra-*.whl")
    return found


def declared(wheel: Path, extra: str = "") -> list[str]:
    with zipfile.ZipFile(wheel) as archive:
        about = archive.read(next(name for name in archive.namelist() if name.endswith("/METADATA"))).decode()
    found = [Requirement(text) for text in re.findall(r"^Requires-Dist: (.*)$", about, re.MULTILINE)]
    return [one.name for one in found if one.marker is None or one.marker.evaluate({"extra": extra})]


def test_it_declares_what_is_imported_and_holds_what_is_served(wheel: Path) -> None:
    of_module = metadata.packages_distributions()
    tops = {name.split(".")[0] for path in SOURCES.rglob("*.py") for name in imported(path)}
    foreign = tops - set(sys.stdlib_module_names)
    wanted = {canonicalize_name(of_module[name][0]) for name in foreign if name in of_module and name != "zembra"}
    brought = {canonicalize_name(name) for name in closure(declared(wheel))}
    assert wanted - set.union(*OPTIONAL.values()) <= brought
    for extra, names in OPTIONAL.items():
        assert {canonicalize_name(name) for name in declared(wheel, extra)} >= names
        assert not names & brought
    with zipfile.ZipFile(wheel) as archive:
        files = set(archive.namelist())
    for part in (
        "web/index.html",
        "drawing/drawing.js",
        "drawing/page.js",
        "py.typed",
        "store/migrations/env.py",
        "demo/data/sailings.csv",
    ):
        assert f"zembra/{part}" in files
    assert any(name.startswith("zembra/drawing/fonts/") for name in files)


def closure(names: list[str]) -> set[str]:
    """These distributions and all that they need, as they are installed here."""
    found: set[str] = set()
    left = list(names)
    while left:
        name = canonicalize_name(left.pop())
        if name in found:
            continue
        found.add(name)
        for text in metadata.distribution(name).requires or ():
            one = Requirement(text)
            if one.marker is None or one.marker.evaluate({"extra": ""}):
                left.append(one.name)
    return found


def tops(name: str) -> Iterator[Path]:
    """What of a distribution lies in the folder of packages."""
    distribution = metadata.distribution(name)
    folder = Path(str(distribution.locate_file("")))
    yield from {
        folder / file.parts[0]
        for file in distribution.files or ()
        if file.parts[0] not in ("..", "__pycache__") and (folder / file.parts[0]).exists()
    }


def link(names: list[str], packages: Path) -> None:
    for top in {top for name in closure(names) for top in tops(name)}:
        if not (packages / top.name).exists():
            (packages / top.name).symlink_to(top)


def test_alone_with_what_it_declares_it_works(wheel: Path, tmp_path: Path) -> None:
    """A fresh environment gets the wheel and, linked from here as no network is at hand, what it declares; nothing else."""
    place = tmp_path / "fresh"
    venv.create(place, with_pip=False)
    (packages,) = (place / "lib").glob("python*/site-packages")
    link(declared(wheel), packages)
    subprocess.run(
        [
            sys.executable,
            "-m",
            "pip",
            "install",
            "--quiet",
            "--no-deps",
            "--no-index",
            "--target",
            str(packages),
            str(wheel),
        ],
        check=True,
    )
    python = [str(place / "bin" / "python")]
    environment = {key: value for key, value in os.environ.items() if key != "PYTHONPATH"}

    def said(*words: str) -> str:
        return subprocess.run(
            [*python, *words], check=True, capture_output=True, text=True, cwd=tmp_path, env=environment
        ).stdout

    assert said("-m", "zembra", "--version").startswith("zembra ")
    assert "True" in said("-c", f"import zembra; print(zembra.__file__.startswith({str(place)!r}))")
    (tmp_path / "sailings.csv").write_bytes(demo_file("sailings.csv"))
    picture = "import zembra; zembra.run('sailings.csv', waved=True).picture('sailings.svg')"
    # numbers need nothing that draws; what an extra brings is asked for by its name
    numbers = "import zembra; print(len(zembra.run('sailings.csv', waved=True).points))"
    assert int(said("-c", numbers)) > 300
    asked = "pip install 'zembra[pictures]'"
    assert asked in said("-c", f"try:\n    {picture}\nexcept Exception as error:\n    print(error)")
    refused = subprocess.run(
        [*python, "-m", "zembra", "demo", "--port", "0", "--home", str(tmp_path / "none")],
        capture_output=True, text=True, env=environment, cwd=tmp_path, check=False,
    )  # fmt: skip
    assert (refused.returncode, asked in refused.stderr) == (2, True)
    assert not (tmp_path / "none").exists()
    link(declared(wheel, "pictures"), packages)
    said("-c", picture)
    assert (tmp_path / "sailings.svg").read_bytes().startswith(b"<svg")
    slide = "from zembra.core.handover.slides import picture_pptx\ntry:\n    picture_pptx(b'', (16, 9), '')\nexcept Exception as error:\n    print(error)"
    assert "pip install 'zembra[office]'" in said("-c", slide)
    serving = subprocess.Popen(
        [*python, "-m", "zembra", "demo", "--port", "0", "--home", str(tmp_path / "home")],
        stdout=subprocess.PIPE, text=True, env=environment, cwd=tmp_path,
    )  # fmt: skip
    try:
        assert serving.stdout
        # it says what it does before it says where it is
        address = next(found[0] for line in serving.stdout if (found := re.findall(r"https?://\S+", line)))
        with urllib.request.urlopen(f"{address}/api/studies") as answer:
            names = [one["study"]["name"] for one in json.load(answer)["studies"]]
        assert "Every landing, every fare" in names
        with urllib.request.urlopen(f"{address}/") as answer:
            assert b"<script" in answer.read()
        told = upload(f"{address}/api/datasets", b"day,riders\n2026-03-01,1\n2026-03-02,2\n")
        assert told["entries"][0]["kind"] == "source"
    finally:
        serving.terminate()
        serving.wait(120)
