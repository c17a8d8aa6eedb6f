"""Keys of feeds in a file beside the database: no backup, export or study holds them."""

from __future__ import annotations

import json
from threading import Lock

from zembra.core.errors import Refusal
from zembra.store.home import ONLY_OUR_FILES, Home
from zembra.store.whole import whole_file

FILE = "keys.json"


class Keyring:
    """Stores each key with its place, and returns it for no other. Safe across threads."""

    def __init__(self, home: Home) -> None:
        self._path = home.folder / FILE
        self._lock = Lock()

    def get(self, study_id: int, place: str) -> str:
        """Return the key of a study's feed at a place, or empty. Raises Refusal."""
        given_for, key = self._all().get(str(study_id), ("", ""))
        return key if given_for == place else ""

    def put(self, study_id: int, place: str, key: str) -> None:
        """Store a key, or delete it if empty. Raises Refusal, OSError."""
        with self._lock:
            kept = self._all()
            before = dict(kept)
            kept.pop(str(study_id), None)
            if key:
                kept[str(study_id)] = (place, key)
            if kept != before:
                with whole_file(self._path, ONLY_OUR_FILES) as beside:
                    beside.write_text(json.dumps(kept))

    def _all(self) -> dict[str, tuple[str, str]]:
        if not self._path.exists():
            return {}
        try:
            kept = json.loads(self._path.read_text())
            return {str(study): (str(place), str(key)) for study, (place, key) in kept.items()}
        except (ValueError, TypeError, AttributeError, OSError):
            raise Refusal("The keys of feeds cannot be read.", place=str(self._path), todo="Give them anew.") from None
