"""Asking the application whatever its description allows, and what it does not."""

from __future__ import annotations

from collections.abc import Iterator

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.strategies import integers
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.core.result import Err
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from zembra.api.description import ADDRESS

STUDIES = 3
KNOWN = {"study_id", "dataset_id", "snapshot_id", "place"}
CHECKS = [not_a_server_error, response_schema_conformance, status_code_conformance, content_type_conformance]


def faults(application: object, examples: int) -> Iterator[str]:
    """What is told of each operation that answers with an error of the server, or not as it is described. examples: how
    often each is asked."""
    schema = schemathesis.openapi.from_wsgi(ADDRESS, application)
    every = list(schema.get_all_operations())
    yield from (f"not described well: {one.err()}" for one in every if isinstance(one, Err))
    operations = [one.ok() for one in every if not isinstance(one, Err)]
    # what takes off comes last: there would be nothing left to ask about
    for operation in sorted(operations, key=lambda one: one.method.upper() == "DELETE"):
        cases = operation.as_strategy(generation_mode=GenerationMode.POSITIVE)
        wrong = operation.as_strategy(generation_mode=GenerationMode.NEGATIVE)

        @settings(
            max_examples=examples,
            deadline=None,
            database=None,
            derandomize=True,
            suppress_health_check=list(HealthCheck),
            phases=[Phase.generate],
        )
        @given(case=cases | wrong, known=integers(0, STUDIES))
        def ask(case: schemathesis.Case, known: int) -> None:
            # mostly of what is there: what is not is soon refused
            for name in KNOWN & set(case.path_parameters or {}):
                if known:
                    case.path_parameters[name] = known
            case.call_and_validate(checks=CHECKS)

        try:
            ask()
        except Exception as error:  # whatever it is, it is told with what was asked
            yield f"{operation.label}: {error}"
