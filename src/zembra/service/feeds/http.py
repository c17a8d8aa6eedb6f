"""Fetch over HTTP: bounded in size, retried, and only from the host that was named.

What is here takes what time and memory the other side wants: it is carried out in a child.
"""

from __future__ import annotations

import json
import re
import socket
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from urllib.parse import quote, unquote

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

from zembra.core.english import counted
from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import SINCE, Address
from zembra.core.feeds.webaddress import WebAddress, is_public
from zembra.service.feeds.fetched import Fetched, FetchRequest, FetchResult, Passing
from zembra.version import __version__
from zembra.work.executor import Report

ATTEMPTS = 3
FIRST_PAUSE, LONGEST_PAUSE = 0.5, 8.0  # seconds between two attempts, with jitter
SILENT = 15.0  # seconds in which nothing comes
MOST_REDIRECTS = 5
MOST_PAGES = 1000
PIECE = 65_536  # bytes that are read at a time
_NEXT = re.compile(r'<([^<>]*)>\s*;[^,]*\brel="?next"?', re.IGNORECASE)  # RFC 8288
_SUFFIXES = {"text/csv": ".csv", "application/json": ".json", "application/vnd.apache.parquet": ".parquet"}


def fetched(_: Report, address: Address, wanted: FetchRequest) -> FetchResult:
    """Fetch an address; no file if it is unchanged. Raises Refusal, and Passing if a retry may help."""
    attempts = Retrying(
        stop=stop_after_attempt(ATTEMPTS),
        wait=wait_exponential_jitter(FIRST_PAUSE, LONGEST_PAUSE),
        retry=retry_if_exception_type(Passing),
        reraise=True,
    )
    url = WebAddress.parse(_filled(address, wanted))
    with _pools(wanted.private) as pools:
        found: Fetched | None = attempts(_Fetching(pools, address, wanted).every_page, url)
    return FetchResult(found, found.cursor if found else wanted.cursor)


def posted(_: Report, url: str, body: bytes, private: bool) -> None:
    """Post JSON once. Raises Refusal, and Passing if a retry may help.

    private: whether local and private addresses are allowed
    """
    with _pools(private) as pools:
        answer = _asked(pools, "POST", WebAddress.parse(url), {"Content-Type": "application/json"}, body)
        answer.close()
    if not 200 <= answer.status < 300:
        raise Passing(f"The address answers {answer.status}.", place=url)


def resolves_to_private(url: str) -> bool:
    """Return whether the host currently resolves to a local or private address. Raises Refusal for an unknown name."""
    address = WebAddress.parse(url)
    try:
        found = socket.getaddrinfo(address.host.strip("[]"), address.port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError):
        raise Refusal("Nobody knows the host of the address.", place=address.host) from None
    return any(not is_public(str(where[4][0])) for where in found)


def _filled(address: Address, wanted: FetchRequest) -> str:
    if SINCE not in address.url:
        return address.url
    if wanted.since is None:
        raise Refusal("The study has no day yet from which on rows could be asked for.", place=address.url)
    return address.url.replace(SINCE, (wanted.since - timedelta(days=address.back)).isoformat())


def _pools(private: bool) -> PoolManager:
    """Return connection pools that check the peer address before sending, as DNS may have changed."""

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
    if private or is_public(host):
        return connection
    connection.close()
    raise Refusal(
        "The address leads to this machine or into a private network, and nobody typed one of those.",
        place=host,
        todo="Type the address again, if that is meant.",
    )


def _asked(
    pools: PoolManager, method: str, url: WebAddress, headers: Mapping[str, str], body: bytes | None = None
) -> BaseHTTPResponse:
    """Send a request. Raises Refusal, and Passing if a retry may help."""
    try:
        # the host goes in as it was checked: no other reading of the address decides where this leads
        pool = pools.connection_from_host(url.host, url.port, url.scheme)
        return pool.urlopen(
            method,
            url.target,
            body,
            headers,
            retries=False,
            redirect=False,
            preload_content=False,
            decode_content=False,
        )
    except NameResolutionError:
        raise Passing("Nobody knows the host of the address.", place=url.host) from None
    except (ConnectTimeoutError, ReadTimeoutError):
        raise Passing("The address does not answer in time.", place=str(url)) from None
    except SSLError as error:
        raise Refusal(f"The certificate of the address cannot be trusted: {error}.", place=str(url)) from None
    except (LocationParseError, ValueError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal("The address is none.", place=str(url)) from None
    except HTTPError:
        raise Passing("Nothing answers at the address.", place=str(url)) from None


@dataclass(frozen=True, slots=True)
class _Fetching:
    """One fetch."""

    pools: PoolManager
    address: Address
    wanted: FetchRequest

    def every_page(self, url: WebAddress) -> Fetched | None:
        cursor = json.loads(self.wanted.cursor) if self.wanted.cursor else {}
        # an ETag belongs to the address it was received for
        mark = cursor.get("etag", "") if cursor.get("url") == str(url) else ""
        answerer, first = self._answer(url, {"If-None-Match": mark} if mark else {})
        if first.status == 304:
            first.close()
            return None
        kind = first.headers.get("Content-Type", "").partition(";")[0].strip().lower()
        # after a redirect the ETag belongs to the other address
        etag = first.headers.get("ETag", "") if answerer == url else ""
        following = self._following(answerer, first)
        pages = [self._body(first, 0)]
        while following is not None:
            if len(pages) == MOST_PAGES:
                raise Refusal(f"The address sends more than {counted(MOST_PAGES, 'page')}.", place=str(url))
            answerer, page = self._answer(following, {})
            following = self._following(answerer, page)
            pages.append(self._body(page, sum(len(part) for part in pages)))
        data = pages[0] if len(pages) == 1 else _together(pages, kind)
        if not data.strip():
            raise Refusal("The address sent nothing.", place=str(url))
        return Fetched(_name(url, kind), data, json.dumps({"url": str(url), "etag": etag}))

    def _answer(self, url: WebAddress, marks: Mapping[str, str]) -> tuple[WebAddress, BaseHTTPResponse]:
        """Follow redirects; return the final address and response. Raises Refusal.

        marks: headers for the first address only
        """
        headers = {"Accept-Encoding": "identity", "User-Agent": f"zembra/{__version__}"}
        headers |= {self.address.header: self.wanted.key} if self.wanted.key else {}
        for _ in range(MOST_REDIRECTS + 1):
            answer = _asked(self.pools, "GET", url, {**headers, **marks})
            location = answer.headers.get("Location")
            if answer.status not in (301, 302, 303, 307, 308) or not location:
                _check_status(answer.status, url, keyed=bool(self.wanted.key))
                return url, answer
            answer.close()
            url, marks = _same_origin_target(url, location, "redirects"), {}
        raise Refusal("The address redirects again and again.", place=str(url))

    def _body(self, answer: BaseHTTPResponse, before: int) -> bytes:
        """Read a body. Raises Refusal.

        before: bytes received earlier
        """
        found = bytearray()
        try:
            for piece in answer.stream(PIECE, decode_content=False):
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

    def _following(self, url: WebAddress, answer: BaseHTTPResponse) -> WebAddress | None:
        """Return the address of the next page, if any. Raises Refusal."""
        link = _NEXT.search(answer.headers.get("Link", ""))
        return _same_origin_target(url, link[1], "has its next page") if link else None


def _same_origin_target(url: WebAddress, reference: str, does: str) -> WebAddress:
    """Resolve a redirect or next page within the same origin, as the key must not leak. Raises Refusal."""
    target = url.joined(reference)
    raised = (url.scheme, url.port, target.scheme, target.port) == ("http", 80, "https", 443)
    if target.origin != url.origin and not (raised and target.host == url.host):
        raise Refusal(
            f"The address {does} at another host, which is not followed: the key would go there.",
            place=target.place,
            todo="Give the address there, if that is meant.",
        )
    return target


def _check_status(status: int, url: WebAddress, *, keyed: bool) -> None:
    """Raise Refusal for any status but success and unchanged."""
    if status in (200, 304):
        return
    if status in (401, 403):
        what = "The address refuses the key." if keyed else "The address asks for a key."
        raise Refusal(what, place=f"{url} answers {status}", todo="Give the key, and the header that it goes in.")
    if status in (404, 410):
        raise Refusal("There is nothing at the address.", place=f"{url} answers {status}")
    if status == 429 or status >= 500:
        raise Passing(f"The address answers that it cannot serve now ({status}).", place=str(url))
    raise Refusal(f"The address answers {status}, which is no table.", place=str(url))


def _together(pages: list[bytes], kind: str) -> bytes:
    """Concatenate pages of a table. Raises Refusal."""
    if kind == "text/csv":
        # each page has the heading again
        first, *others = (page if page.endswith(b"\n") else page + b"\n" for page in pages)
        heading = first.partition(b"\n")[0].rstrip(b"\r")
        if any(page.partition(b"\n")[0].rstrip(b"\r") != heading for page in others):
            raise Refusal("The pages that the address sends have other columns each.")
        return first + b"".join(page.partition(b"\n")[2] for page in others)
    rows = [_rows_of_list(page) for page in pages]
    return b"[" + b",".join(part for part in rows if part) + b"]"


def _rows_of_list(page: bytes) -> bytes:
    """Return the items of a JSON list. Raises Refusal."""
    try:
        is_list = isinstance(json.loads(page), list)  # one page at a time: as objects it takes many times its bytes
    except (ValueError, RecursionError):
        is_list = False
    if not is_list:
        raise Refusal("The address sends pages that cannot be put together.", todo="Ask for CSV, or for lists of JSON.")
    return page.decode(json.detect_encoding(page)).strip().encode()[1:-1].strip()


def _name(url: WebAddress, kind: str) -> str:
    path = unquote(url.path).rpartition("/")[2] or url.host
    stem, _, ending = path.partition(".")
    suffix = _SUFFIXES.get(kind) or (f".{ending}" if ending else "")
    return f"{quote(stem, safe=' -_')[:80]} {datetime.now(UTC):%Y-%m-%d %H.%M.%S}{suffix}"
