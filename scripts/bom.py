"""A bill of materials in the form CycloneDX 1.6: what ships with Zembra and what is installed beside it.

python scripts/bom.py FILE
"""

from __future__ import annotations

import json
import sys
import uuid
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from scripts.packages import Package, installed, shipped

from zembra import __version__


def bill() -> dict[str, Any]:
    return {
        "bomFormat": "CycloneDX",
        "specVersion": "1.6",
        "serialNumber": f"urn:uuid:{uuid.uuid4()}",
        "version": 1,
        "metadata": {
            "timestamp": datetime.now(UTC).isoformat(timespec="seconds"),
            "component": {"type": "application", "name": "zembra", "version": __version__},
        },
        "components": [_component(one) for one in (*shipped(), *installed())],
    }


def _component(one: Package) -> dict[str, Any]:
    told: dict[str, Any] = {
        "type": "library",
        "bom-ref": one.url,
        "name": one.name,
        "version": one.version,
        "purl": one.url,
        "licenses": [{"license": {"name": one.licence}}],
    }
    if one.sha512:
        told["hashes"] = [{"alg": "SHA-512", "content": one.sha512}]
    return told


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(json.dumps(bill(), indent=1) + "\n")
