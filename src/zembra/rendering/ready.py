"""Imported by a child that draws: the engine begins there, in the thread that will draw with it."""

from zembra.rendering.engine import warm_up

warm_up()
