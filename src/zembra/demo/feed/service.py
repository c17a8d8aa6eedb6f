"""The simulated service over HTTP: CSV, JSON or Parquet, paged, with ETags, and with faults on request."""

from __future__ import annotations

import csv
import io
import json
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from hashlib import sha256

from flask import Flask, Response, redirect, request
from werkzeug.wrappers import Response as Answer

from zembra.demo.feed.counts import Count, counts_known_on

ADDRESS = "/counts.csv?since={since}"  # as a study is told it
HUGE = 200_000_000  # bytes


@dataclass
class Manners:
    """The behaviour of the service.

    key: required, or empty; header: that carries it
    page: rows per page, 0 for all
    slow: seconds before each chunk
    fail: number of requests answered by 503 first
    half: whether it breaks off
    rubbish: whether it sends a web page
    huge: whether it sends 200 MB
    elsewhere: a redirect
    """

    key: str = ""
    header: str = "Authorization"
    page: int = 0
    slow: float = 0.0
    fail: int = 0
    half: bool = False
    rubbish: bool = False
    huge: bool = False
    elsewhere: str = ""


def create_feed(manners: Manners, today: Callable[[], date] = date.today) -> Flask:
    app = Flask("zembra-feed")
    failed = 0

    @app.get("/counts.<form>")
    def counts(form: str) -> Answer:
        nonlocal failed
        if manners.key and request.headers.get(manners.header) != manners.key:
            return Response("The key is wrong.\n", 401)
        if manners.elsewhere:
            return redirect(manners.elsewhere, 302)
        if failed < manners.fail:
            failed += 1
            return Response("Come again later.\n", 503)
        if manners.huge:
            return Response(_huge(), mimetype="text/csv")
        if manners.rubbish:
            return Response(
                "<html><body><h1>Port office</h1><p>Closed for lunch.</p></body></html>", mimetype="text/html"
            )
        try:
            since = date.fromisoformat(request.args["since"]) if request.args.get("since") else None
            page = max(0, int(request.args.get("page", 0)))
        except ValueError:
            return Response("That is no day, or no page.\n", 400)
        return _answer(counts_known_on(today(), since), form, page)

    def _answer(found: list[Count], form: str, page: int) -> Response:
        size = manners.page or max(1, len(found))
        body, kind = _body(found[page * size : (page + 1) * size], form)
        etag = sha256(body).hexdigest()[:16]
        if request.if_none_match.contains(etag):
            return Response(status=304)
        answer = Response(_slowly(body, manners), mimetype=kind)
        answer.content_length = len(body)
        answer.set_etag(etag)
        if (page + 1) * size < len(found):
            since = request.args.get("since", "")
            answer.headers["Link"] = f'<{request.path}?since={since}&page={page + 1}>; rel="next"'
        return answer

    return app


def _body(rows: list[Count], form: str) -> tuple[bytes, str]:
    if form == "json":
        return json.dumps(
            [{"day": row.day.isoformat(), "route": row.route, "passengers": row.passengers} for row in rows]
        ).encode(), "application/json"
    if form == "parquet":
        import polars as pl

        out = io.BytesIO()
        pl.DataFrame(
            [(row.day, row.route, row.passengers) for row in rows], schema=["day", "route", "passengers"], orient="row"
        ).write_parquet(out)
        return out.getvalue(), "application/vnd.apache.parquet"
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(("day", "route", "passengers"))
    writer.writerows((row.day.isoformat(), row.route, row.passengers) for row in rows)
    return text.getvalue().encode(), "text/csv"


def _slowly(body: bytes, manners: Manners) -> Iterator[bytes]:
    pieces = 20 if manners.slow else 2
    size = max(1, -(-len(body) // pieces))
    for start in range(0, len(body), size):
        if manners.half and start:
            raise ConnectionError("told to break off")
        time.sleep(manners.slow)
        yield body[start : start + size]


def _huge() -> Iterator[bytes]:
    line = b"2026-01-01,Outer Isles,1000\n" * 4000
    yield b"day,route,passengers\n"
    for _ in range(HUGE // len(line)):
        yield line
