"""What Zembra is made with by others: what ships with it, and what pip installs beside it."""

from __future__ import annotations

import base64
import json
import re
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
FRONTEND = ROOT / "frontend"
_PIN = re.compile(r"^([\w.-]+)==([\w.+-]+)")


@dataclass(frozen=True)
class Package:
    """kind: npm or pypi. path: where its files lie, of those that ship. sha512: in hex, where the lock file has it."""

    kind: str
    name: str
    version: str
    licence: str
    path: Path | None = None
    sha512: str = ""

    @property
    def url(self) -> str:
        """Package URL, by the specification of that name."""
        name = self.name.replace("@", "%40") if self.kind == "npm" else re.sub(r"[-_.]+", "-", self.name).lower()
        return f"pkg:{self.kind}/{name}@{self.version}"


def shipped() -> list[Package]:
    """Scripts and fonts of the front end, from the lock file; those that only build or check left out."""
    packages: dict[str, dict[str, Any]] = json.loads((FRONTEND / "package-lock.json").read_text())["packages"]
    found = [
        Package(
            "npm",
            path.split("node_modules/")[-1],
            told["version"],
            told["license"],
            FRONTEND / path,
            base64.b64decode(told["integrity"].removeprefix("sha512-")).hex() if "integrity" in told else "",
        )
        for path, told in sorted(packages.items(), key=lambda one: one[0].split("node_modules/")[-1])
        if path and not (told.get("dev") or told.get("devOptional") or told.get("optional"))
    ]
    # some lie in more than one place
    return list({one.url: one for one in found}.values())


def installed() -> list[Package]:
    """Python packages that are pinned for run time."""
    pins = (_PIN.match(line) for line in (ROOT / "requirements" / "run.txt").read_text().splitlines())
    return [Package("pypi", pin[1], pin[2], _licence(pin[1])) for pin in pins if pin]


def _licence(name: str) -> str:
    told = metadata.metadata(name)
    classified = [
        one.split("::")[-1].strip() for one in told.get_all("Classifier") or [] if one.startswith("License ::")
    ]
    written = (told.get_all("License-Expression") or told.get_all("License") or [""])[0].strip()
    # some write the whole text there
    short = written if written and "\n" not in written else ""
    return short or ", ".join(classified) or "as its own file says"
