"""Print the OpenAPI description, from which the front end's types are made."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from zembra.api.app import create_app
from zembra.api.description import described


def description() -> str:
    with tempfile.TemporaryDirectory() as folder:
        return json.dumps(described(create_app(Path(folder) / "none.db")), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    print(description(), end="")
