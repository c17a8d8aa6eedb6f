"""Open a study that was handed over as a package."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.handover.package import unpacked
from zembra.core.intake.foreign import guarded
from zembra.interface.ledger import Ledger
from zembra.interface.reading import Reading, read
from zembra.interface.running import Run, run


class Study:
    """A study from a package.

    name, ledger, as_of: as handed over
    reading: of the included file, or None
    """

    def __init__(self, name: str, ledger: Ledger, reading: Reading | None, as_of: date, figure: Any) -> None:
        self.name, self.ledger, self.reading, self.as_of = name, ledger, reading, as_of
        self._figure = figure

    def run(self, data: Any = None, *, as_of: date | None = None) -> Run:
        """Run the ledger on the included file, or on other rows. Raises Refusal."""
        if data is None and self.reading is None:
            raise Refusal("The package does not hold the received file.", todo="Give the rows.")
        rows = self.reading._data if data is None and self.reading is not None else data
        return run(rows, self.ledger, as_of=as_of or self.as_of, figure=self._figure)

    def _repr_html_(self) -> str:
        return self.ledger._repr_html_()

    def __repr__(self) -> str:
        return f"<Study {self.name}, as of {self.as_of.isoformat()}>"


def open_study(source: str | Path | bytes) -> Study:
    """Open a package. Raises Refusal."""
    try:
        data = source if isinstance(source, bytes) else Path(source).read_bytes()
    except OSError as error:
        raise Refusal(f"The package cannot be read: {error.strerror or error}.", place=str(source)) from None
    found = guarded("package’s", lambda: unpacked(data))
    ledger = Ledger._of(found.study.ledger)
    reading = None
    if found.data is not None:
        reading = Reading.by(read(found.data, as_of=found.study.as_of, name=found.study.file), found.study.ledger)
    return Study(found.study.name, ledger, reading, found.study.as_of, found.study.figure)
