"""Check that the packages of the extra `pictures` are installed."""

from __future__ import annotations

from importlib.util import find_spec

from zembra.core.errors import Refusal

NEEDED = {"py_mini_racer": "mini-racer", "resvg_py": "resvg-py", "typst": "typst", "fontTools": "fonttools"}


def check_installed(what: str) -> None:
    """what: needs them, as the subject of a sentence in the plural. Raises Refusal where one is missing."""
    missing = [package for module, package in NEEDED.items() if find_spec(module) is None]
    if missing:
        raise Refusal(
            f"{what} need packages that are not installed: {', '.join(missing)}.",
            todo="Install them with: pip install 'zembra[pictures]'.",
        )
