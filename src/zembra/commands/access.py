"""Decide who may reach a server: this machine, or anybody with the key."""

from __future__ import annotations

import ipaddress
from typing import Any

from zembra.core.errors import Refusal

LOOPBACK = "127.0.0.1"
SHORTEST_KEY = 12
FEWEST_LETTERS = 6  # that differ
# of a server on this machine that goes before it: who asks, under which name, and whether by TLS
BEHIND_PROXY: dict[str, Any] = {
    "trusted_proxy": LOOPBACK,
    "trusted_proxy_count": 1,
    "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto", "x-forwarded-host"},
    "clear_untrusted_proxy_headers": True,
}


def check_key(host: str, key: str, *, shared: bool, encrypted: bool, behind_proxy: bool) -> None:
    """Raise Refusal for a weak key, or for a missing one if others could connect.

    shared: whether people have keys
    encrypted: whether TLS is served
    behind_proxy: whether all requests come through a local proxy
    """
    if key and len(key) < SHORTEST_KEY:
        raise Refusal(f"The key is too short: it needs {SHORTEST_KEY} letters or more.", place="ZEMBRA_KEY")
    if key and len(set(key)) < FEWEST_LETTERS:
        raise Refusal("The key is too easily guessed: it repeats a few letters.", place="ZEMBRA_KEY")
    if shared:
        return
    if (encrypted or behind_proxy) and not key:
        raise Refusal(
            "Behind another server, others could reach Zembra, and everything in it.",
            place="--certificate" if encrypted else "ZEMBRA_BEHIND_PROXY",
            todo=f"Set ZEMBRA_KEY to {SHORTEST_KEY} letters or more, which the page asks for.",
        )
    if not key and not _is_loopback(host):
        raise Refusal(
            f"At {host}, others could reach Zembra, and everything in it.",
            todo=f"Set ZEMBRA_KEY to {SHORTEST_KEY} letters or more, which the page asks for, or leave --host away.",
        )


def _is_loopback(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False
