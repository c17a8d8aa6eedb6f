"""Write everything that is made from the code, or with --check say what is not current."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

os.environ["ZEMBRA_DESCRIBES"] = "1"

from scripts.monthnames import month_names
from scripts.notices import notices
from scripts.wordnames import entries_module

from zembra.api.openapi import description
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.schema import kind_schema, ledger_schema
from zembra.demo.generate import FILES
from zembra.settings import PREFIX, Settings

ROOT = Path(__file__).resolve().parent.parent
FRONTEND = ROOT / "frontend"


def entries_page() -> str:
    """docs/entries.md: every entry kind with its sentence and words."""
    text = ["# Ledger entries", "", "Generated from the code by `make generated`; do not edit.", ""]
    for name, kind in kinds().items():
        told = kind_schema(kind)
        text += [f"## {told['title']} (`{name}`, {told['group']})", "", told["hint"], "", f"> {told['sentence']}", ""]
        text += ["| word | meaning | default |", "| --- | --- | --- |"]
        for word, spec in told["parameters"]["properties"].items():
            default = json.dumps(spec.get("default"), ensure_ascii=False)
            text.append(f"| `{word}` | {spec.get('title', word)} | `{default}` |")
        text.append("")
    return "\n".join(text)


def settings_page() -> str:
    """docs/settings.md: every variable of the environment."""
    text = ["# Settings", "", "Generated from the code by `make generated`; do not edit.", ""]
    text += ["| variable | what it sets | usually |", "| --- | --- | --- |"]
    for name, field in Settings.model_fields.items():
        usual = (
            ""
            if field.default in (None, "")
            else f"{field.default:,}"
            if isinstance(field.default, int)
            else field.default
        )
        usual = {True: "1", False: "0"}[field.default] if isinstance(field.default, bool) else usual
        text.append(f"| `{PREFIX}{name.upper()}` | {field.description} | {usual} |")
    text += ["", "`ZEMBRA_NO_BROWSER=1` has the tests go without a browser where there is none.", ""]
    return "\n".join(text)


def types_of(openapi: str) -> str:
    with tempfile.TemporaryDirectory() as folder:
        source, made = Path(folder) / "openapi.json", Path(folder) / "schema.ts"
        source.write_text(openapi)
        command = ["npx", "--no-install", "openapi-typescript", str(source), "-o", str(made)]
        subprocess.run(command, cwd=FRONTEND, check=True, capture_output=True)
        return made.read_text()


def wanted() -> dict[Path, bytes]:
    openapi = description()
    texts = {
        ROOT / "src/zembra/api/openapi.json": openapi,
        FRONTEND / "src/api/schema.gen.ts": types_of(openapi),
        ROOT / "docs/ledger.schema.json": json.dumps(ledger_schema(), indent=2, ensure_ascii=False) + "\n",
        ROOT / "docs/entries.md": entries_page(),
        ROOT / "docs/settings.md": settings_page(),
        ROOT / "NOTICE": notices(),
        ROOT / "src/zembra/entries.py": entries_module(),
        ROOT / "src/zembra/core/intake/month_names.json": month_names(),
    }
    made = {path: text.encode() for path, text in texts.items()}
    return made | {ROOT / "src/zembra/demo/data" / name: make() for name, make in FILES.items()}


def main() -> int:
    stale = []
    for path, data in wanted().items():
        if path.exists() and path.read_bytes() == data:
            continue
        if "--check" in sys.argv:
            stale.append(str(path.relative_to(ROOT)))
        else:
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(data)
            print(f"written: {path.relative_to(ROOT)}")
    if stale:
        print(f"not current (run “make generated”): {', '.join(stale)}")
    return 1 if stale else 0


if __name__ == "__main__":
    raise SystemExit(main())
