"""Read Tabular Data Packages."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.intake.foreign import cell_text, guarded, open_zip
from zembra.core.intake.grid import frame_table, table_of
from zembra.core.intake.howread import FileForm, TableHow
from zembra.core.intake.jsontable import json_frame, parse_json
from zembra.core.intake.several import first_dated, one_of
from zembra.core.intake.signatures import ZIP
from zembra.core.intake.table import TextTable


def descriptor_of(data: bytes) -> dict[str, Any]:
    if data.startswith(ZIP):
        archive = open_zip(data)
        name = min((n for n in archive.namelist() if n.endswith("datapackage.json")), key=len)
        found = parse_json(guarded("zip", lambda: archive.read(name)))
    else:
        found = parse_json(data)
    if not isinstance(found, dict) or not resources_of(found):
        raise Refusal("The data package names no resource.", place="datapackage.json")
    return found


def resources_of(descriptor: dict[str, Any]) -> tuple[str, ...]:
    listed = descriptor.get("resources")
    items = [item for item in listed if isinstance(item, dict)] if isinstance(listed, list) else []
    return tuple(str(item.get("name", f"resource {n}")) for n, item in enumerate(items, 1))


def package_table(data: bytes, how: TableHow, read: Callable[[bytes], TextTable]) -> TextTable:
    """Read one resource: inline data, or a file that `read` turns into a table."""
    descriptor = descriptor_of(data)
    names = resources_of(descriptor)
    return one_of(names, how.sheet, lambda name: _resource(data, descriptor, name, how, read), "The data package")


def likely_resource(data: bytes, descriptor: dict[str, Any], read: Callable[[bytes], TextTable]) -> str | None:
    """Return the first resource with readable dates, or None."""
    return first_dated(
        resources_of(descriptor),
        lambda name: _resource(data, descriptor, name, TableHow(form=FileForm.PACKAGE, sheet=name), read),
    )


def _resource(
    data: bytes, descriptor: dict[str, Any], sheet: str, how: TableHow, read: Callable[[bytes], TextTable]
) -> TextTable:
    place = resources_of(descriptor).index(sheet)
    resource = [item for item in descriptor["resources"] if isinstance(item, dict)][place]
    inline = resource.get("data")
    if isinstance(inline, list) and inline and isinstance(inline[0], list):
        return table_of([[cell_text(cell) for cell in row] for row in inline if isinstance(row, list)], how)
    if inline is not None:
        return frame_table(json_frame(inline))
    path = resource.get("path")
    path = path[0] if isinstance(path, list) and path else path
    if not isinstance(path, str) or not data.startswith(ZIP):
        raise Refusal(
            "The resource's data is not inside the file.", place=f"resource {sheet}", todo="Pack it as a zip."
        )
    archive = open_zip(data)
    inside = next((name for name in archive.namelist() if name == path or name.endswith(f"/{path}")), None)
    if inside is None:
        raise Refusal(f"The archive does not hold “{path}”.", place=f"resource {sheet}")
    content = guarded("zip", lambda: archive.read(inside))
    return read(content)
