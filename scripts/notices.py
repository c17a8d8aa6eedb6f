"""The licences of what ships with Zembra and is by others: scripts and fonts of the front end."""

from __future__ import annotations

import json
from pathlib import Path

FRONTEND = Path(__file__).resolve().parent.parent / "frontend"
_ABOUT = """Zembra ships scripts and fonts by others. Each is listed with its version and licence; the texts of the licences follow.
Python packages are not part of it: pip brings them, each with its own licence.
"""


def notices() -> str:
    """From the lock file and the installed packages, those that only build or check left out."""
    packages = json.loads((FRONTEND / "package-lock.json").read_text())["packages"]
    shipped = {
        path.split("node_modules/")[-1]: (path, told)
        for path, told in packages.items()
        if path and not (told.get("dev") or told.get("devOptional") or told.get("optional"))
    }
    texts: dict[str, list[str]] = {}
    lines = []
    for name, (path, told) in sorted(shipped.items()):
        lines.append(f"{name} {told['version']}: {told['license']}")
        for file in sorted((FRONTEND / path).iterdir()):
            if file.is_file() and file.name.lower().startswith(("license", "licence")):
                texts.setdefault(file.read_text(errors="replace").strip(), []).append(name)
    parts = [f"{', '.join(names)}\n\n{text}\n" for text, names in texts.items()]
    rule = "\n" + "-" * 80 + "\n\n"
    return rule.join(["\n".join([_ABOUT, *lines, ""]), *parts])
