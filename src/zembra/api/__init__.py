"""The web application: JSON over HTTP, and the built front end."""

from zembra.api.app import create_app

__all__ = ["create_app"]
