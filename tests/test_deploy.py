"""The files of docs/deploy: their commands are ones that Zembra takes."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from zembra.cli import _parser
from zembra.work import platform

DEPLOY = Path(__file__).parents[1] / "docs" / "deploy"


def test_the_commands_are_taken() -> None:
    unit = (DEPLOY / "zembra.service").read_text()
    image = (DEPLOY / "Dockerfile").read_text()
    found = [
        re.findall(r"^ExecStart=\S+/zembra (.*)$", unit, re.MULTILINE)[0].split(),
        json.loads(image[image.rindex("CMD") + 3 :])[1:],
    ]
    for words in found:
        args = _parser().parse_args(words)
        assert args.no_open
        assert args.port == 8450
    assert "dist/zembra-*.whl" in image


@pytest.mark.skipif(shutil.which("systemd-analyze") is None, reason="no systemd on this machine")
def test_the_unit_is_one(tmp_path: Path) -> None:
    unit = (DEPLOY / "zembra.service").read_text().replace("/opt/zembra/bin/zembra", sys.executable)
    (tmp_path / "zembra.service").write_text(unit)
    told = subprocess.run(
        ["systemd-analyze", "verify", str(tmp_path / "zembra.service")], capture_output=True, text=True, check=False
    )
    assert "Unknown" not in told.stderr, told.stderr


def test_a_browser_is_opened_before_a_screen_only(monkeypatch: pytest.MonkeyPatch) -> None:
    opened: list[str] = []
    monkeypatch.setattr(platform.webbrowser, "open", opened.append)
    monkeypatch.setattr(platform, "has_screen", lambda: False)
    platform.open_browser("http://127.0.0.1:1")
    assert opened == []
    monkeypatch.setattr(platform, "has_screen", lambda: True)
    platform.open_browser("http://127.0.0.1:1")
    for _ in range(100):
        if opened:
            break
        platform.threading.Event().wait(0.02)
    assert opened == ["http://127.0.0.1:1"]
