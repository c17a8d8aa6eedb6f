"""Serve TLS with your own certificate through nginx, which is started and stopped with the server.

Handshakes that stall, renegotiation, old ciphers and slow clients are its trade.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import ssl
import subprocess
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from zembra.commands.ports import listens
from zembra.core.errors import Refusal

_CONFIGURATION = """\
daemon off;
pid "{folder}/pid";
error_log stderr error;
worker_processes 1;
worker_rlimit_nofile 8192;
events {{ worker_connections 4000; }}
http {{
  access_log off;
  server_tokens off;
  client_body_temp_path "{folder}/body";
  proxy_temp_path "{folder}/proxy";
  fastcgi_temp_path "{folder}/other";
  uwsgi_temp_path "{folder}/other";
  scgi_temp_path "{folder}/other";
  client_header_timeout 30s;
  client_body_timeout 30s;
  keepalive_timeout 30s;
  server {{
    listen {address} ssl;
    ssl_certificate "{certificate}";
    ssl_certificate_key "{key}";
    ssl_protocols TLSv1.2 TLSv1.3;
    # redirect plain HTTP to HTTPS
    error_page 497 =301 https://$http_host$request_uri;
    client_max_body_size {most_body};
    proxy_request_buffering off;
    proxy_read_timeout 300s;
    location / {{
      proxy_pass http://127.0.0.1:{port};
      proxy_http_version 1.1;
      proxy_set_header Connection "";
      proxy_set_header Host $http_host;
      proxy_set_header X-Forwarded-Host $http_host;
      proxy_set_header X-Forwarded-Proto $scheme;
      proxy_set_header X-Forwarded-For $remote_addr;
    }}
  }}
}}
"""


@dataclass(frozen=True, slots=True)
class Certificate:
    """A certificate in PEM.

    chain with issuers, and private key without passphrase
    program: nginx
    """

    chain: Path
    key: Path
    program: str


def checked_certificate(chain: Path, key: Path) -> Certificate:
    """Check a certificate. Raises Refusal for missing files, non-PEM, a wrong or encrypted key, or missing nginx."""

    def passphrase() -> str:
        raise Refusal("The key of the certificate asks for a passphrase.", place=str(key))

    for path in (chain, key):
        try:
            path.read_bytes()
        except OSError as error:
            raise Refusal(f"It cannot be read: {error.strerror}.", place=str(path)) from None
    try:
        ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(chain, key, passphrase)
    except ssl.SSLError as error:
        other = "KEY_VALUES_MISMATCH" in str(error)
        what = "The key belongs to another certificate." if other else "It is no certificate with its key, in PEM."
        raise Refusal(what, place=f"{chain}, {key}") from None
    found = shutil.which("nginx", path=f"{os.environ.get('PATH', '')}:/usr/sbin")
    if found is None:
        raise Refusal(
            "TLS goes through nginx, which is not installed.",
            todo="Install it (Debian: apt install nginx-light), or put another server before Zembra.",
        )
    return Certificate(chain, key, found)


def certificate_of(chain: Path | None, key: Path | None) -> Certificate | None:
    """Return the certificate, or None if none is given. Raises Refusal for an incomplete one."""
    if chain is None and key is None:
        return None
    if chain is None or key is None:
        raise Refusal("A certificate and its key go together.", place="--certificate, --certificate-key")
    return checked_certificate(chain, key)


@contextlib.contextmanager
def encrypted(
    certificate: Certificate, address: str, port: int, *, folder: Path, most_body: int, ended: Callable[[], None]
) -> Iterator[None]:
    """Serve TLS at "host:port" in front of a local port within this context. Raises Refusal if it does not start.

    folder: for its files
    most_body: bytes
    ended: called if nginx stops
    """
    with tempfile.TemporaryDirectory(prefix="tls-", dir=folder) as own:
        written = Path(own) / "nginx.conf"
        written.write_text(
            _CONFIGURATION.format(
                folder=_quoted(own),
                address=address,
                certificate=_quoted(certificate.chain.resolve()),
                key=_quoted(certificate.key.resolve()),
                port=port,
                most_body=most_body,
            )
        )
        command = [certificate.program, "-e", "stderr", "-p", own, "-c", str(written)]
        checked = subprocess.run([*command, "-t"], capture_output=True, text=True, check=False)
        if checked.returncode:
            raise Refusal(f"nginx does not take it: {_last(checked.stderr)}", place="--certificate")
        process = subprocess.Popen([*_ending_with_parent(), *command])
        leaving = threading.Event()

        def watch() -> None:
            process.wait()
            if not leaving.is_set():
                ended()

        try:
            _wait_for(process, address)
            threading.Thread(target=watch, daemon=True).start()
            yield
        finally:
            leaving.set()
            process.terminate()
            process.wait(timeout=5)


def _wait_for(process: subprocess.Popen[bytes], address: str) -> None:
    """Wait until it listens."""
    host, _, port = address.rpartition(":")
    for _ in range(200):
        if process.poll() is not None:
            break
        if listens(host.strip("[]"), int(port)):
            return
        time.sleep(0.05)
    raise Refusal(f"nginx does not listen at {address}: what it says stands above.", place="--certificate")


def _quoted(path: object) -> str:
    """Quote a path for the configuration; `$` cannot be escaped there."""
    text = str(path)
    if "$" in text:
        raise Refusal("nginx takes no path with $ in it.", place=text)
    return text.replace("\\", "\\\\").replace('"', '\\"')


def _last(output: str) -> str:
    return next((line.split("] ", 1)[-1] for line in output.splitlines() if "[emerg]" in line), "no reason given")


def _ending_with_parent() -> list[str]:
    """Return a command prefix that kills nginx with the server, if available."""
    found = shutil.which("setpriv")
    return [found, "--pdeathsig", "TERM", "--"] if found else []
