"""JSON files with a digest, so that a changed one is rejected."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from zembra.store.whole import whole_file


def write_sealed(file: Path, content: Any) -> None:
    """Write JSON with a digest. Raises OSError."""
    text = json.dumps(content)
    with whole_file(file) as beside:
        beside.write_text(f"{_digest(text)}\n{text}")


def read_sealed(file: Path) -> Any:
    """Read JSON, or None if missing or altered."""
    try:
        seal, _, text = file.read_text().partition("\n")
        return json.loads(text) if seal == _digest(text) else None
    except (OSError, ValueError):
        return None


def digest_of_file(file: Path) -> str:
    """Return the digest of a file. Raises OSError."""
    with file.open("rb") as opened:
        return hashlib.file_digest(opened, lambda: hashlib.blake2b(digest_size=16)).hexdigest()


def _digest(text: str) -> str:
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()
