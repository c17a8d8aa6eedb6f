"""JSON Schemas of a ledger and of each entry kind."""

from __future__ import annotations

import json
from typing import Any

from zembra.core.grammar import Nouns
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.upgrade import FORMAT
from zembra.core.speaking import parts

_NOUNS = Nouns({"period": "day", "periods": "days", "a_period": "a day", "file": "the file"})


def kind_example(kind: type[Entry]) -> tuple[Entry, Nouns]:
    """Return an entry of the kind with default parameters, and nouns for its sentence."""
    return kind(), _NOUNS


def kind_schema(kind: type[Entry]) -> dict[str, Any]:
    """Return the schema of one entry kind, as `zembra entries --json` prints it."""
    entry, nouns = kind_example(kind)
    return {
        "kind": kind.kind,
        "group": kind.group.value,
        "title": kind.title,
        "hint": kind.hint,
        "sentence": "".join(part.text for part in parts(entry, nouns)),
        "parameters": kind.model_json_schema(),
    }


def _apart(parameters: dict[str, Any], known: dict[str, Any], prefix: str) -> dict[str, Any]:
    """Rename definitions that clash with those of another kind."""
    own = parameters.get("$defs", {})
    clashing = [name for name, schema in own.items() if name in known and known[name] != schema]
    text = json.dumps(parameters)
    for name in clashing:
        text = text.replace(f'"#/$defs/{name}"', f'"#/$defs/{prefix}{name}"')
    copy: dict[str, Any] = json.loads(text)
    for name in clashing:
        copy["$defs"][prefix + name] = copy["$defs"].pop(name)
    return copy


def ledger_schema() -> dict[str, Any]:
    """Return the JSON Schema of the newest ledger format, with the parameters of every kind."""
    schema = Ledger.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = FORMAT
    record = schema["$defs"].pop("Record")
    variants = []
    for name, kind in kinds().items():
        parameters = _apart(kind.model_json_schema(ref_template="#/$defs/{model}"), schema["$defs"], kind.__name__)
        schema["$defs"].update(parameters.pop("$defs", {}))
        schema["$defs"][kind.__name__] = parameters
        variant = {
            **record,
            "title": kind.title,
            "description": kind.hint,
            "properties": {
                **record["properties"],
                "kind": {"const": name},
                "params": {"$ref": f"#/$defs/{kind.__name__}"},
            },
        }
        variants.append(variant)
    schema["$defs"]["Record"] = {"oneOf": variants}
    return schema
