"""Chart features that python-pptx lacks, written as XML."""

from __future__ import annotations

from typing import Any

C = "{http://schemas.openxmlformats.org/drawingml/2006/chart}"
A = "{http://schemas.openxmlformats.org/drawingml/2006/main}"


def sub(parent: Any, name: str, **attributes: str) -> Any:
    """Append a child element."""
    made = parent.makeelement(f"{C}{name}", attributes)
    parent.append(made)
    return made


def rgb(ink: str) -> Any:
    """Return a colour element for #rrggbb."""
    from pptx.dml.color import RGBColor

    return RGBColor.from_string(ink.removeprefix("#").upper())


def fill(near: Any, colour: str, strength: float) -> Any:
    """Fill an area without outline.

    strength: opacity
    """
    look = near.makeelement(f"{C}spPr", {})
    if strength:
        solid = look.makeelement(f"{A}solidFill", {})
        ink = look.makeelement(f"{A}srgbClr", {"val": colour.removeprefix("#").upper()})
        ink.append(look.makeelement(f"{A}alpha", {"val": str(round(strength * 100_000))}))
        solid.append(ink)
        look.append(solid)
    else:
        look.append(look.makeelement(f"{A}noFill", {}))
    line = look.makeelement(f"{A}ln", {})
    line.append(look.makeelement(f"{A}noFill", {}))
    look.append(line)
    return look
