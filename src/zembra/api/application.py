"""Find the application that answers the current request."""

from __future__ import annotations

from typing import cast

from flask import current_app

from zembra.service.application import Application


def application() -> Application:
    return cast(Application, current_app.extensions["zembra"])
