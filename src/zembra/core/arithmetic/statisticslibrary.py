"""Call statsmodels without its warnings for programmers."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def unheard_warnings() -> Iterator[None]:
    """Within this the library says nothing. What a fit that did not end well means is told by whoever asked for it."""
    # imported first: its filters, which let warnings through, would come before ours
    from statsmodels.tools import sm_exceptions  # noqa: F401

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        yield
