"""The licences of what ships with Zembra and is by others, and of what is installed beside it."""

from __future__ import annotations

from scripts.packages import installed, shipped

_ABOUT = """Zembra ships scripts and fonts by others. Each is listed with its version and licence; the texts of the licences follow.
"""
_BESIDE = """Python packages that pip installs beside Zembra, each with the text of its own licence:
"""


def notices() -> str:
    texts: dict[str, list[str]] = {}
    lines = []
    for one in shipped():
        lines.append(f"{one.name} {one.version}: {one.licence}")
        assert one.path is not None
        for file in sorted(one.path.iterdir()):
            if file.is_file() and file.name.lower().startswith(("license", "licence")):
                texts.setdefault(file.read_text(errors="replace").strip(), []).append(one.name)
    beside = [f"{one.name} {one.version}: {one.licence}" for one in installed()]
    parts = [f"{', '.join(names)}\n\n{text}\n" for text, names in texts.items()]
    rule = "\n" + "-" * 80 + "\n\n"
    return rule.join(["\n".join([_ABOUT, *lines, "", _BESIDE, *beside, ""]), *parts])
