"""Fetching over HTTP: bounded in time and size, tried again where that may help, and never to another host than was named."""

from __future__ import annotations

import ipaddress
import json
import re
import socket
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import SplitResult, quote, urljoin, urlsplit

from tenacity import Retrying, retry_if_exception_type, stop_after_attempt, wait_exponential_jitter
from urllib3 import BaseHTTPResponse, PoolManager, Timeout
from urllib3.connection import HTTPConnection, HTTPSConnection
from urllib3.connectionpool import HTTPConnectionPool, HTTPSConnectionPool
from urllib3.exceptions import (
    ConnectTimeoutError,
    HTTPError,
    IncompleteRead,
    LocationParseError,
    NameResolutionError,
    ProtocolError,
    ReadTimeoutError,
    SSLError,
)

from zembra import __version__
from zembra.core.english import counted
from zembra.core.errors import Refusal
from zembra.core.feeds.words import SINCE, Address
from zembra.service.feeds.fetched import Fetched, Passing, Wanted

ATTEMPTS = 3
FIRST_PAUSE, LONGEST_PAUSE = 0.5, 8.0  # seconds between two attempts, with jitter
SILENT = 15.0  # seconds in which nothing comes
MOST_REDIRECTS = 5
MOST_PAGES = 1000
PIECE = 65_536  # bytes that are read at a time
_NEXT = re.compile(r'<([^<>]*)>\s*;[^,]*\brel="?next"?', re.IGNORECASE)  # RFC 8288
_SUFFIXES = {"text/csv": ".csv", "application/json": ".json", "application/vnd.apache.parquet": ".parquet"}
_PORTS = {"http": 80, "https": 443}


def fetch(address: Address, wanted: Wanted, *, private: bool) -> Fetched | None:
    """What an address sends; None where that is what it sent last. private: whether it may be of this machine or of a private
    network. Raises Refusal, and Passing where it may work another time."""
    url = _filled(address, wanted)
    attempts = Retrying(
        stop=stop_after_attempt(ATTEMPTS),
        wait=wait_exponential_jitter(FIRST_PAUSE, LONGEST_PAUSE),
        retry=retry_if_exception_type(Passing),
        sleep=lambda seconds: _pause(seconds, wanted.check),
        reraise=True,
    )
    end = time.monotonic() + wanted.seconds
    with _pools(private) as pools:
        found: Fetched | None = attempts(_Fetching(pools, address, wanted, end).every_page, url)
        return found


def post_json(url: str, body: bytes, *, private: bool) -> None:
    """Send JSON to an address, once. private: as of `fetch`. Raises Refusal, and Passing where it may work another time."""
    with _pools(private) as pools:
        try:
            answer = pools.request(
                "POST",
                url,
                body=body,
                headers={"Content-Type": "application/json"},
                redirect=False,
                preload_content=False,
            )
        except HTTPError:
            raise Passing("Nothing answers at the address.", place=url) from None
        answer.close()
    if not 200 <= answer.status < 300:
        raise Passing(f"The address answers {answer.status}.", place=url)


def leads_home(url: str) -> bool:
    """Whether the host of an address is this machine or one of a private network, as its name stands now. Raises Refusal where
    the name is not known."""
    parts = urlsplit(url)
    try:
        found = socket.getaddrinfo(parts.hostname, parts.port or _PORTS.get(parts.scheme, 80), type=socket.SOCK_STREAM)
    except (OSError, UnicodeError):
        raise Refusal("Nobody knows the host of the address.", place=parts.hostname or url) from None
    return any(not _is_public(str(where[4][0])) for where in found)


def _is_public(host: str) -> bool:
    address = ipaddress.ip_address(host.partition("%")[0])
    mapped = getattr(address, "ipv4_mapped", None)
    return bool((mapped or address).is_global)


def _filled(address: Address, wanted: Wanted) -> str:
    if SINCE not in address.url:
        return address.url
    if wanted.since is None:
        raise Refusal("The study has no day yet from which on rows could be asked for.", place=address.url)
    return address.url.replace(SINCE, (wanted.since - timedelta(days=address.back)).isoformat())


def _pools(private: bool) -> PoolManager:
    """Connections that look where they lead before anything is sent: a name may lead elsewhere than when it was typed."""

    class Looked(HTTPConnection):
        def _new_conn(self) -> socket.socket:
            return _looked_at(super()._new_conn(), private)

    class LookedSecure(HTTPSConnection):
        def _new_conn(self) -> socket.socket:
            return _looked_at(super()._new_conn(), private)

    class Pool(HTTPConnectionPool):
        ConnectionCls = Looked

    class SecurePool(HTTPSConnectionPool):
        ConnectionCls = LookedSecure

    pools = PoolManager(retries=False, timeout=Timeout(connect=SILENT, read=SILENT))
    pools.pool_classes_by_scheme = {"http": Pool, "https": SecurePool}
    return pools


def _looked_at(connection: socket.socket, private: bool) -> socket.socket:
    host = str(connection.getpeername()[0])
    if private or _is_public(host):
        return connection
    connection.close()
    raise Refusal(
        "The address leads to this machine or into a private network, and nobody typed one of those.",
        place=host,
        todo="Type the address again, if that is meant.",
    )


@dataclass(frozen=True, slots=True)
class _Fetching:
    """One look at an address. end: by the monotonic clock."""

    pools: PoolManager
    address: Address
    wanted: Wanted
    end: float

    def every_page(self, url: str) -> Fetched | None:
        self.check()
        cursor = json.loads(self.wanted.cursor) if self.wanted.cursor else {}
        # what changed is told by a mark, which is of the address as it was asked for then
        mark = cursor.get("etag", "") if cursor.get("url") == url else ""
        first = self._answer(url, {"If-None-Match": mark} if mark else {})
        if first.status == 304:
            first.close()
            return None
        kind = first.headers.get("Content-Type", "").partition(";")[0].strip().lower()
        etag, following = first.headers.get("ETag", ""), self._following(url, first)
        pages = [self._body(first, 0)]
        while following is not None:
            if len(pages) == MOST_PAGES:
                raise Refusal(f"The address sends more than {counted(MOST_PAGES, 'page')}.", place=url)
            page = self._answer(following, {})
            following = self._following(following, page)
            pages.append(self._body(page, sum(len(part) for part in pages)))
        data = pages[0] if len(pages) == 1 else _together(pages, kind)
        if not data.strip():
            raise Refusal("The address sent nothing.", place=url)
        return Fetched(_name(url, kind), data, json.dumps({"url": url, "etag": etag}))

    def check(self) -> None:
        """Raises Refusal where the time is over."""
        self.wanted.check()
        if time.monotonic() > self.end:
            raise Refusal(
                f"The address has not sent everything within {self.wanted.seconds:g} seconds.",
                place=self.address.url,
                todo="Ask for fewer rows. ZEMBRA_FEED_SECONDS raises the limit.",
            )

    def _answer(self, url: str, headers: dict[str, str]) -> BaseHTTPResponse:
        """The first answer that is no redirection. Raises Refusal."""
        headers |= {"Accept-Encoding": "identity", "User-Agent": f"zembra/{__version__}"}
        headers |= {self.address.header: self.wanted.key} if self.wanted.key else {}
        for _ in range(MOST_REDIRECTS + 1):
            self.check()
            answer = self._asked(url, headers)
            location = answer.headers.get("Location")
            if answer.status not in (301, 302, 303, 307, 308) or not location:
                _check_status(answer.status, url, keyed=bool(self.wanted.key))
                return answer
            answer.close()
            url = self._within(url, location, "redirects")
        raise Refusal("The address redirects again and again.", place=url)

    def _asked(self, url: str, headers: dict[str, str]) -> BaseHTTPResponse:
        try:
            left = max(0.1, min(SILENT, self.end - time.monotonic()))
            return self.pools.request(
                "GET",
                url,
                headers=headers,
                redirect=False,
                preload_content=False,
                timeout=Timeout(connect=left, read=left),
            )
        except NameResolutionError:
            raise Passing("Nobody knows the host of the address.", place=urlsplit(url).hostname) from None
        except (ConnectTimeoutError, ReadTimeoutError):
            raise Passing("The address does not answer in time.", place=url) from None
        except SSLError as error:
            raise Refusal(f"The certificate of the address cannot be trusted: {error}.", place=url) from None
        except (LocationParseError, ValueError) as error:
            if isinstance(error, Refusal):
                raise
            raise Refusal("The address is none.", place=url) from None
        except HTTPError:
            raise Passing("Nothing answers at the address.", place=url) from None

    def _body(self, answer: BaseHTTPResponse, before: int) -> bytes:
        """before: bytes that came already. Raises Refusal."""
        found = bytearray()
        try:
            for piece in answer.stream(PIECE, decode_content=False):
                self.check()
                found += piece
                if before + len(found) > self.wanted.most:
                    raise Refusal(
                        f"The address sends more than {self.wanted.megabytes} MB.",
                        place=self.address.url,
                        todo="Ask for fewer rows. ZEMBRA_MAX_UPLOAD_MB raises the limit.",
                    )
        except IncompleteRead as error:
            came = f"{len(found):,} of {len(found) + (error.expected or 0):,} bytes".replace(",", " ")
            raise Passing(f"The address broke off: {came} came.", place=self.address.url) from None
        except ReadTimeoutError:
            raise Passing("The address fell silent before all had come.", place=self.address.url) from None
        except (ProtocolError, HTTPError):
            raise Passing("The address broke off before all had come.", place=self.address.url) from None
        finally:
            answer.close()
        return bytes(found)

    def _following(self, url: str, answer: BaseHTTPResponse) -> str | None:
        """The address of the next page, if there is one. Raises Refusal."""
        link = _NEXT.search(answer.headers.get("Link", ""))
        return self._within(url, link[1], "has its next page") if link else None

    def _within(self, url: str, location: str, does: str) -> str:
        """Where a redirection or a next page leads: the key goes to nobody else."""
        target = urljoin(url, location)
        was, now = urlsplit(url), urlsplit(target)
        raised = (was.scheme, now.scheme) == ("http", "https") and (_port(was), _port(now)) == (80, 443)
        if was.hostname != now.hostname or not (raised or (was.scheme, _port(was)) == (now.scheme, _port(now))):
            raise Refusal(
                f"The address {does} at another host, which is not followed: the key would go there.",
                place=now.hostname or target,
                todo="Give the address there, if that is meant.",
            )
        return target


def _port(parts: SplitResult) -> int | None:
    try:
        return parts.port or _PORTS.get(parts.scheme)
    except ValueError:
        return None


def _check_status(status: int, url: str, *, keyed: bool) -> None:
    """Raises Refusal where it is neither what was asked for, nor that it did not change."""
    if status in (200, 304):
        return
    if status in (401, 403):
        what = "The address refuses the key." if keyed else "The address asks for a key."
        raise Refusal(what, place=f"{url} answers {status}", todo="Give the key, and the header that it goes in.")
    if status in (404, 410):
        raise Refusal("There is nothing at the address.", place=f"{url} answers {status}")
    if status == 429 or status >= 500:
        raise Passing(f"The address answers that it cannot serve now ({status}).", place=url)
    raise Refusal(f"The address answers {status}, which is no table.", place=url)


def _together(pages: list[bytes], kind: str) -> bytes:
    """The pages of a table as one. Raises Refusal."""
    if kind == "text/csv":
        # each page has the heading again
        first, *others = (page if page.endswith(b"\n") else page + b"\n" for page in pages)
        heading = first.partition(b"\n")[0].rstrip(b"\r")
        if any(page.partition(b"\n")[0].rstrip(b"\r") != heading for page in others):
            raise Refusal("The pages that the address sends have other columns each.")
        return first + b"".join(page.partition(b"\n")[2] for page in others)
    try:
        every: list[Any] = [json.loads(page) for page in pages]
    except (ValueError, RecursionError):
        every = [None]
    if not all(isinstance(page, list) for page in every):
        raise Refusal("The address sends pages that cannot be put together.", todo="Ask for CSV, or for lists of JSON.")
    return json.dumps([row for page in every for row in page]).encode()


def _name(url: str, kind: str) -> str:
    path = urlsplit(url).path.rpartition("/")[2] or urlsplit(url).hostname or "feed"
    stem, _, ending = path.partition(".")
    suffix = _SUFFIXES.get(kind) or (f".{ending}" if ending else "")
    return f"{quote(stem, safe=' -_')[:80]} {datetime.now(UTC):%Y-%m-%d %H.%M.%S}{suffix}"


def _pause(seconds: float, check: Callable[[], None]) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        check()
        time.sleep(min(0.1, max(0.0, end - time.monotonic())))
