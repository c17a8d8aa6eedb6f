"""A blueprint of one resource, with its addresses described in one place."""

from __future__ import annotations

from typing import Any

from flask_openapi3 import APIBlueprint

from zembra.settings import settings

# set where the description is written: to make the schemas of every model takes longer than all else of a start
DESCRIBES = settings().describes


class Resource(APIBlueprint):
    def __init__(self, *args: Any, **words: Any) -> None:
        super().__init__(*args, doc_ui=DESCRIBES, **words)
