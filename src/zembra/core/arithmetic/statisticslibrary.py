"""Call statsmodels without its warnings for programmers."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def unheard_warnings() -> Iterator[None]:
    """Suppress the library's warnings. Callers report failed fits themselves."""
    # import it first, as its warning filters would otherwise precede ours
    from statsmodels.tools import sm_exceptions  # noqa: F401

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        yield
