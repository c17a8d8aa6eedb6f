"""Pack a study into one open data package, from which another Zembra rebuilds it."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.handover.frames import lines_frame, parquet, points_frame
from zembra.core.handover.handedfiles import HandedFile
from zembra.core.handover.report import report_json
from zembra.core.handover.tables import LINE_COLUMNS, POINT_COLUMNS, followup_csv, lines_csv, points_csv
from zembra.core.intake.howread import Settled
from zembra.core.ledger.model import Ledger, needed_packages
from zembra.core.ledger.run import Result
from zembra.core.study.followup import Item, Noted
from zembra.version import __version__

FORMAT = "zembra.study/1"
ABOUT, RECEIVED = "study.json", "received/"
MOST_BYTES = 400_000_000  # that a package may unpack to
EPOCH = (1980, 1, 1, 0, 0, 0)  # of every member: the same study makes the same file
_KINDS = {
    "value": "number", "counted": "number", "lower": "number", "upper": "number", "level": "number",
}  # fmt: skip


class StudyFile(BaseModel):
    """The content of study.json.

    file: name of the received file; sha256: of its bytes
    needs: packages that provide entry kinds
    """

    model_config = ConfigDict(extra="forbid")

    format: Annotated[str, Field(max_length=40)] = FORMAT
    zembra: str = __version__
    name: Annotated[str, Field(min_length=1, max_length=200)]
    as_of: date
    file: str
    sha256: str
    ledger: Ledger
    figure: FigureSettings
    notes: list[Noted] = []
    needs: list[str] = []


class Unpacked(BaseModel):
    """An opened package.

    data: the received file, or None
    """

    study: StudyFile
    data: bytes | None


def package_zip(
    result: Result,
    study: StudyFile,
    *,
    note: str,
    settled: tuple[Settled, ...],
    items: Sequence[Item],
    pictures: Mapping[str, bytes],
    data: bytes | None,
) -> bytes:
    """Return the bytes of a package.

    pictures: by file name
    data: the received file, if included
    """
    study = study.model_copy(update={"needs": needed_packages(study.ledger)})
    tables = {
        HandedFile.POINTS_CSV: points_csv(result).encode(),
        HandedFile.LINES_CSV: lines_csv(result).encode(),
        HandedFile.FOLLOW_UP_CSV: followup_csv(items).encode(),
    }
    files: dict[str, bytes] = {
        **{f"data/{name}": content for name, content in tables.items()},
        f"data/{HandedFile.POINTS_PARQUET}": parquet(points_frame(result)),
        f"data/{HandedFile.LINES_PARQUET}": parquet(lines_frame(result)),
        HandedFile.LEDGER: (study.ledger.model_dump_json(indent=2) + "\n").encode(),
        HandedFile.REPORT: report_json(result, settled).encode(),
        HandedFile.METHOD_NOTE: note.encode(),
        ABOUT: (study.model_dump_json(indent=2) + "\n").encode(),
        **{f"pictures/{name}": content for name, content in pictures.items()},
    }
    if data is not None:
        files[f"{RECEIVED}{_safe(study.file)}"] = data
    files["datapackage.json"] = json.dumps(_described(study, tables), ensure_ascii=False, indent=2).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(zipfile.ZipInfo(name, EPOCH), content, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def unpacked(data: bytes) -> Unpacked:
    """Open a package. Raises Refusal."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(member.file_size for member in archive.infolist()) > MOST_BYTES:
                raise Refusal(
                    f"The package unpacks to more than {MOST_BYTES // 1_000_000} MB.", todo="Bring in its parts alone."
                )
            names = archive.namelist()
            if ABOUT not in names:
                raise Refusal(
                    "This is no study that was handed over whole.",
                    place=f"there is no {ABOUT} in it",
                    todo="Bring it in as a file of rows.",
                )
            about = _study(archive.read(ABOUT))
            received = next((name for name in names if name.startswith(RECEIVED)), None)
            found = archive.read(received) if received else None
    except zipfile.BadZipFile:
        raise Refusal("The file is no zip archive.", todo="Hand it over again.") from None
    if found is not None and hashlib.sha256(found).hexdigest() != about.sha256:
        raise Refusal(
            "The received file in the package is not the one the study was made from.",
            place=f"SHA-256 {about.sha256} was expected",
            todo="Hand the study over again.",
        )
    return Unpacked(study=about, data=found)


def _study(text: bytes) -> StudyFile:
    try:
        content = json.loads(text)
    except ValueError:
        raise Refusal("The study in the package cannot be read.", place=ABOUT) from None
    form = content.get("format") if isinstance(content, dict) else None
    if form != FORMAT:
        raise Refusal(
            f"The study is in the form “{form}”; this Zembra reads {FORMAT}.", place=ABOUT, todo="Use a newer Zembra."
        )
    try:
        return StudyFile.model_validate(content)
    except ValidationError as error:
        first = error.errors()[0]
        where = " › ".join(str(step) for step in first["loc"])
        raise Refusal("The study in the package cannot be read.", place=f"{ABOUT}, {where}: {first['msg']}") from None


def _described(study: StudyFile, tables: Mapping[HandedFile, bytes]) -> dict[str, Any]:
    """Return datapackage.json: Data Package v2 with table schemas."""
    columns = {
        HandedFile.POINTS_CSV: POINT_COLUMNS,
        HandedFile.LINES_CSV: LINE_COLUMNS,
        HandedFile.FOLLOW_UP_CSV: tables[HandedFile.FOLLOW_UP_CSV].decode().splitlines()[0].split(","),
    }
    return {
        "$schema": "https://datapackage.org/profiles/2.0/datapackage.json",
        "name": "zembra-study",
        "title": study.name,
        "resources": [
            {
                "name": name.removesuffix(".csv"),
                "path": f"data/{name}",
                "type": "table",
                "format": "csv",
                "mediatype": "text/csv",
                "encoding": "utf-8",
                "bytes": len(content),
                "hash": f"sha256:{hashlib.sha256(content).hexdigest()}",
                "schema": {
                    "fields": [{"name": cell, "type": _KINDS.get(cell, "string")} for cell in columns[name]],
                    "missingValues": [""],
                },
            }
            for name, content in tables.items()
        ],
    }


def _safe(name: str) -> str:
    """Return a plain file name without folders."""
    kept = "".join(letter if letter.isalnum() or letter in " .-_()" else "_" for letter in name).strip(". ")
    return kept[-120:] or "file"
