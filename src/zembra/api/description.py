"""The OpenAPI description, with problem details as they are really sent."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from flask import Flask, Response
from flask_openapi3 import OpenAPI

ADDRESS = "/api/openapi.json"
# as `make generated` writes it
WRITTEN = Path(__file__).with_name("openapi.json")
PROBLEM_TYPE = "application/problem+json"
# what any address may answer, whatever it is asked
_ANYWHERE = {
    "400": "Bad Request",
    "401": "Unauthorized",
    "403": "Forbidden",
    "404": "Not Found",
    "405": "Method Not Allowed",
    "409": "Conflict",
    "413": "Content Too Large",
    "415": "Unsupported Media Type",
    "422": "Unprocessable Entity",
    "503": "Service Unavailable",
}
_METHODS = ("get", "put", "post", "delete", "patch")


def described(app: OpenAPI) -> dict[str, Any]:
    """Return the OpenAPI 3.1 document of an application created while `resource.DESCRIBES` is set."""
    document: dict[str, Any] = app.api_doc
    document["components"] = {name: part for name, part in document["components"].items() if part is not None}
    for path in document["paths"].values():
        for method in _METHODS:
            if method in path:
                path[method]["responses"] = _described(path[method]["responses"])
    return document


def register_description(app: Flask) -> None:
    """Serve the document."""

    def tell() -> Response:
        return Response(WRITTEN.read_bytes(), mimetype="application/json")

    # Flask's own route, which is not part of the described API
    Flask.add_url_rule(app, ADDRESS, "description", tell)


def _described(responses: dict[str, Any]) -> dict[str, Any]:
    own = {status: response for status, response in responses.items() if status not in _ANYWHERE}
    problem = {PROBLEM_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    return own | {status: {"description": description, "content": problem} for status, description in _ANYWHERE.items()}
