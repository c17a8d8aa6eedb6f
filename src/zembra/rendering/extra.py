"""Check that the packages of the extra `pictures` are installed."""

from __future__ import annotations

from importlib.util import find_spec

from zembra.core.errors import Refusal

NEEDED = {"py_mini_racer": "mini-racer", "resvg_py": "resvg-py", "typst": "typst", "fontTools": "fonttools"}


def check_installed(what: str) -> None:
    """Raise Refusal if a package is missing.

    what: the feature that needs it, a plural subject
    """
    missing = [package for module, package in NEEDED.items() if find_spec(module) is None]
    if missing:
        raise Refusal(
            f"{what} need packages that are not installed: {', '.join(missing)}.",
            todo="Install them with: pip install 'zembra[pictures]'.",
        )
