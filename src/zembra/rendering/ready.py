"""Imported by the child that draws: starts the engine in the thread that uses it."""

from zembra.rendering.engine import warm_up

warm_up()
