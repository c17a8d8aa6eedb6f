"""Make JSON responses from models."""

from __future__ import annotations

from flask import Response
from pydantic import BaseModel


def reply(model: BaseModel, status: int = 200) -> Response:
    return Response(model.model_dump_json(), status=status, mimetype="application/json")
