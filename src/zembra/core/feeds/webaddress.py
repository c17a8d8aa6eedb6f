"""Parse web addresses once, so that the address that is checked is the one connected to."""

from __future__ import annotations

import ipaddress
import re
from dataclasses import dataclass
from typing import Self
from urllib.parse import quote, urljoin

from zembra.core.errors import Refusal

PORTS = {"http": 80, "https": 443}
_PARTS = re.compile(r"(https?)://([^/?#]*)([^#]*)(?:#.*)?", re.IGNORECASE | re.DOTALL)  # RFC 3986, appendix B
_HOST = re.compile(r"([A-Za-z0-9._-]+|\[[0-9A-Fa-f:.]+\])(?::([0-9]{1,5}))?")
_ASIDE = "%/?:@!$&'()*+,;=~[]"  # that may stand in a path or a query as they are


@dataclass(frozen=True, slots=True)
class WebAddress:
    """A parsed address.

    scheme: http or https
    host: lower case, IPv6 in brackets
    target: path and query as sent
    """

    scheme: str
    host: str
    port: int
    target: str

    @classmethod
    def parse(cls, text: str) -> Self:
        """Parse an address. Raises Refusal for one that others may read differently: with backslashes, blanks,
        control characters or user names.
        """
        odd = next((letter for letter in text if letter == "\\" or letter.isspace() or not letter.isprintable()), None)
        if odd is not None:
            raise Refusal(
                "The address holds a blank, a backslash or a letter that cannot be seen.",
                place=repr(text)[1:-1],
                todo="Write %20 for a blank, / for a backslash.",
            )
        parts = _PARTS.fullmatch(text)
        if parts is None:
            raise _none(text)
        scheme, place, target = parts[1].lower(), parts[2], parts[3]
        if "@" in place:
            raise Refusal(
                "The address holds a name or a password, which would stand in exports and pictures.",
                place=place.rpartition("@")[2],
                todo="Leave it out, and give it as the key: it is kept apart.",
            )
        host, port = _host_and_port(place, scheme, text)
        if not target.startswith("/"):
            target = f"/{target}"
        return cls(scheme, host, port, quote(target, safe=_ASIDE))

    @property
    def origin(self) -> tuple[str, str, int]:
        """The origin: scheme, host and port (RFC 6454)."""
        return self.scheme, self.host, self.port

    @property
    def place(self) -> str:
        """The origin as text."""
        port = "" if self.port == PORTS[self.scheme] else f":{self.port}"
        return f"{self.scheme}://{self.host}{port}"

    @property
    def path(self) -> str:
        return self.target.partition("?")[0]

    def __str__(self) -> str:
        return f"{self.place}{self.target}"

    def joined(self, reference: str) -> Self:
        """Resolve a reference against this address. Raises Refusal."""
        # urljoin drops some characters, so refuse them first
        self.parse(f"{self.place}/{reference}")
        try:
            joined = urljoin(str(self), reference)
        except ValueError:  # of the library, where brackets do not fit each other
            raise _none(reference) from None
        return self.parse(joined)


def is_public(host: str) -> bool:
    """Return whether an IP address is public. Embedded, mapped and multicast addresses are not."""
    address = ipaddress.ip_address(host.partition("%")[0])
    if isinstance(address, ipaddress.IPv6Address):
        if address.ipv4_mapped is not None:
            return is_public(str(address.ipv4_mapped))
        if any(address in network for network in _NOT_PUBLIC):
            return False
    return address.is_global and not (address.is_multicast or address.is_reserved or address.is_unspecified)


# IPv4 in another dress (RFC 6052, 8215, 3056, 4380, 4291) and addresses of a site (RFC 3879)
_NOT_PUBLIC = [
    ipaddress.IPv6Network(text)
    for text in ("64:ff9b::/96", "64:ff9b:1::/48", "2002::/16", "2001::/32", "::/96", "fec0::/10")
]


def _host_and_port(place: str, scheme: str, text: str) -> tuple[str, int]:
    ascii_place = place if place.isascii() else _in_ascii(place, text)
    found = _HOST.fullmatch(ascii_place)
    if found is None or (found[2] and not 0 < int(found[2]) < 65536):
        raise _none(text)
    if found[1].startswith("["):
        try:
            ipaddress.IPv6Address(found[1][1:-1])
        except ValueError:
            raise _none(text) from None
    return found[1].lower(), int(found[2]) if found[2] else PORTS[scheme]


def _in_ascii(place: str, text: str) -> str:
    try:
        found = place.encode("idna").decode()
        as_written = found.encode().decode("idna")
    except UnicodeError:
        raise _none(text) from None
    # IDNA 2003 and IDNA 2008 read ß, and some others, as different letters
    if as_written.lower() != place.lower():
        raise Refusal(
            "Programs read a letter in the host of the address in different ways.",
            place=place,
            todo=f"Write the host in plain letters, such as {found}, or as xn--…",
        )
    return found


def _none(text: str) -> Refusal:
    return Refusal(
        "The address of the feed is none.", place=text or "it is empty", todo="Write it as https://host/path."
    )
