"""TLS with a certificate of one's own, through nginx, as a browser and a slow client meet it."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import ssl
import subprocess
import time
from collections.abc import Iterator
from contextlib import ExitStack
from http.client import HTTPConnection, HTTPSConnection
from pathlib import Path

import pytest

from tests.browser.machine import Server
from zembra.cli import main

KEY = "kittiwake at dawn"


@pytest.fixture(scope="module")
def pem(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with spaces in its name, a certificate for localhost, its key, and a key of another."""
    folder = tmp_path_factory.mktemp("a certificate")
    make = "openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=localhost -addext subjectAltName=IP:127.0.0.1"
    for name in ("ours", "other"):
        out = f"-keyout {name}.key -out {name}.pem"
        subprocess.run([*make.split(), *out.split()], cwd=folder, check=True, capture_output=True)
    lock = "openssl rsa -aes256 -passout pass:ferry -in ours.key -out locked.key"
    subprocess.run(lock.split(), cwd=folder, check=True, capture_output=True)
    return folder


@pytest.fixture
def served(tmp_path: Path, pem: Path) -> Iterator[Server]:
    if shutil.which("nginx", path="/usr/sbin:/usr/bin") is None:
        if os.environ.get("ZEMBRA_NO_BROWSER") == "1":
            pytest.skip("there is no nginx, and ZEMBRA_NO_BROWSER says to go without")
        pytest.fail("There is no nginx to test with: “make browser” installs Debian's nginx-light.")
    server = Server(tmp_path / "home", key=KEY, certificate=(pem / "ours.pem", pem / "ours.key"))
    server.start()
    yield server
    server.kill()


def test_it_is_served_with_tls_only_and_knows_who_asks(served: Server, pem: Path) -> None:
    assert served.address.startswith("https://127.0.0.1:")
    trusted = ssl.create_default_context(cafile=str(pem / "ours.pem"))
    place = served.address.removeprefix("https://")

    def ask(method: str, path: str, body: str | None = None, **headers: str) -> tuple[int, str, str]:
        asked = HTTPSConnection(place, timeout=120, context=trusted)
        asked.request(method, path, body, headers)
        answer = asked.getresponse()
        return answer.status, answer.headers.get("Set-Cookie", ""), answer.read().decode()

    form = {"Content-Type": "application/x-www-form-urlencoded", "Origin": served.address}
    assert ask("GET", "/api/studies")[0] == 401
    status, cookie, _ = ask("POST", "/login", f"key={KEY.replace(' ', '+')}", **form)
    assert (status, "Secure" in cookie) == (303, True)
    session = {"Cookie": cookie.split(";")[0]}
    assert ask("GET", "/api/studies", **session)[0] == 200
    assert ask("POST", "/logout", "", **session, Origin="https://elsewhere.example")[0] == 403
    plain = HTTPConnection(place, timeout=120)
    plain.request("GET", "/studies")
    answer = plain.getresponse()
    assert (answer.status, answer.headers["Location"]) == (301, f"{served.address}/studies")


def test_handshakes_that_stall_shut_nobody_out_and_it_ends_with_the_server(served: Server) -> None:
    host, port = served.address.removeprefix("https://").split(":")
    unproven = ssl._create_unverified_context()
    with ExitStack() as held:
        for n in range(300):
            one = held.enter_context(socket.create_connection((host, int(port)), timeout=120))
            one.sendall((b"", b"\x16\x03\x01\x02\x00\x01", b"GET / HT")[n % 3])
        asked = HTTPSConnection(host, int(port), timeout=120, context=unproven)
        asked.request("GET", "/api/studies")
        assert asked.getresponse().status == 401
    served.end(signal.SIGKILL)
    for _ in range(100):
        try:
            socket.create_connection((host, int(port)), timeout=1).close()
        except ConnectionRefusedError:
            return
        time.sleep(0.05)
    raise AssertionError("nginx has outlived the server")


def test_a_certificate_that_cannot_be_served_is_refused_in_words(
    tmp_path: Path, pem: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def refusal(chain: str, key: str) -> str:
        at = ["--port", "0", "--home", str(tmp_path / "home")]
        certificate = ["--certificate", str(pem / chain), "--certificate-key", str(pem / key)]
        assert main(["serve", *at, *(certificate if key else certificate[:2])]) == 2
        return capsys.readouterr().err

    assert "others could reach Zembra" in refusal("ours.pem", "ours.key")
    monkeypatch.setenv("ZEMBRA_KEY", KEY)
    assert "go together" in refusal("ours.pem", "")
    assert "It cannot be read: No such file" in refusal("gone.pem", "ours.key")
    assert "belongs to another certificate" in refusal("ours.pem", "other.key")
    assert "no certificate with its key" in refusal("ours.key", "ours.key")
    assert "asks for a passphrase" in refusal("ours.pem", "locked.key")
    monkeypatch.setattr("zembra.commands.tls.shutil.which", lambda *_, **__: None)
    assert "nginx, which is not installed" in refusal("ours.pem", "ours.key")
