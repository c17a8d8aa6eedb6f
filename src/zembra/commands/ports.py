"""Check whether a port is in use."""

from __future__ import annotations

import contextlib
import socket


def listens(host: str, port: int) -> bool:
    with contextlib.suppress(OSError), socket.create_connection((host, port), timeout=1):
        return True
    return False
