"""Choices in the sentences of a picture."""

from __future__ import annotations

from zembra.core.grammar import Choice


class Role(Choice):
    """The role of a line in a picture."""

    SERIES = ("series", "series")
    CURVE = ("curve", "reading")
    PROJECTION = ("projection", "projection")
    AREA = ("area", "band")
    RULE = ("rule", "line held against")
    UPRIGHT = ("upright", "upright line")
    POINTS = ("points", "marked points")
    BARS = ("bars", "bars")
    SPAN = ("span", "stretch")
    FLAGS = ("flags", "events")


PLACED = (Role.UPRIGHT, Role.POINTS, Role.SPAN, Role.FLAGS)  # they stand at places, and are in the picture or not


class MadeFor(Choice):
    """The purpose of a picture: width and height in pixels of 1/96 inch."""

    SLIDE_WIDE = ("slide-16-9", "a slide, 16 to 9", "1280 × 720")
    SLIDE = ("slide-4-3", "a slide, 4 to 3", "1024 × 768")
    FULL_WIDTH = ("full-width", "a page’s full width", "170 × 95 mm")
    HALF_PAGE = ("half-page", "half a page", "170 × 120 mm")
    SQUARE = ("square", "a square", "900 × 900")
    MILLIMETRES = ("mm", "a size in millimetres,")
    PIXELS = ("px", "a size in pixels,")


class TextSize(Choice):
    SMALL = ("small", "small")
    AS_SET = ("as-set", "as set")
    LARGE = ("large", "large")
    LARGER = ("larger", "very large")

    @property
    def factor(self) -> float:
        return {"small": 0.85, "as-set": 1.0, "large": 1.25, "larger": 1.6}[self.value]


class Ground(Choice):
    WHITE = ("white", "white")
    PAPER = ("paper", "paper")
    CLEAR = ("clear", "nothing", "transparent")


class Light(Choice):
    LIGHT = ("light", "by day", "dark ink on a light ground")
    DARK = ("dark", "by night", "light ink on a dark ground")


class Drawn(Choice):
    LINE = ("line", "a line")
    POINTS = ("points", "points only")
    BARS = ("bars", "bars")
    AREA = ("area", "a filled area")


class Weight(Choice):
    HAIR = ("hair", "hair-thin")
    THIN = ("thin", "thin")
    MIDDLING = ("middling", "middling")
    THICK = ("thick", "thick")
    HEAVY = ("heavy", "heavy")

    @property
    def pixels(self) -> float:
        return {"hair": 0.6, "thin": 1.1, "middling": 1.9, "thick": 3.2, "heavy": 4.8}[self.value]


class Stroke(Choice):
    UNBROKEN = ("unbroken", "unbroken")
    DASHED = ("dashed", "dashed")
    DOTTED = ("dotted", "dotted")
    BOTH = ("dash-dot", "dashed and dotted")


class PointsAt(Choice):
    NONE = ("none", "without points")
    ODD = ("odd", "with points where not plainly measured", "filled, adjusted, set aside")
    ALL = ("all", "with every point")
    MEASURED = ("measured", "with measured points")
    ENDS = ("ends", "with its first and last point")
    MARKED = ("marked", "with marked points")


class PointShape(Choice):
    ROUND = ("circle", "round")
    SQUARE = ("rect", "square")
    DIAMOND = ("diamond", "diamond")
    TRIANGLE = ("triangle", "triangle")


class ValuesAt(Choice):
    NONE = ("none", "no values")
    LAST = ("last", "the last value")
    ENDS = ("extremes", "the largest and smallest value")
    ALL = ("all", "every value")
    MARKED = ("marked", "marked values")


class NamedAt(Choice):
    END = ("end", "at its end")
    START = ("start", "at its beginning")
    PEAK = ("peak", "beside its highest point")
    KEY = ("key", "in a key under the chart")
    NOT = ("not", "nowhere")


class Taken(Choice):
    IN = ("in", "in the picture")
    OUT = ("out", "left out of the picture", "it still counts")


class Says(Choice):
    """What stands under the name of a line."""

    NOTHING = ("nothing", "nothing under its name")
    EQUATION = ("equation", "its equation under its name")
    R2 = ("r2", "its R² under its name")
    BOTH = ("both", "its equation and R² under its name")

    @property
    def equation(self) -> bool:
        return self in (Says.EQUATION, Says.BOTH)

    @property
    def r2(self) -> bool:
        return self in (Says.R2, Says.BOTH)


class Halo(Choice):
    NONE = ("none", "without a halo")
    GROUND = ("ground", "with a halo", "a rim in the colour of the ground, so that lines that cross it stand back")


class Side(Choice):
    """The side of the scale. USUAL keeps the key of earlier versions."""

    USUAL = (
        "left",
        "on its usual scale",
        "a series on the left one, all that is made of it on the scale of its series",
    )
    LEFT = ("left-always", "on the left scale")
    RIGHT = ("right", "on the right scale")


class Runs(Choice):
    EVENLY = ("evenly", "evenly")
    LOG = ("log", "logarithmically")


class Numbers(Choice):
    FULL = ("full", "in full")
    THOUSANDS = ("thousands", "in thousands")
    MILLIONS = ("millions", "in millions")
    PERCENT = ("percent", "as percent", "0.25 is 25 %")


class UnitStands(Choice):
    NAME = ("name", "in the name of the scale")
    BEFORE = ("before", "before each number")
    AFTER = ("after", "after each number")


class Grid(Choice):
    LINES = ("lines", "with grid lines")
    NONE = ("none", "without grid lines")


class AxisDrawn(Choice):
    NUMBERS = ("numbers", "its axis not drawn")
    DRAWN = ("drawn", "its axis drawn")
    BARE = ("bare", "without its numbers")


class Together(Choice):
    """How the right scale relates to the left one."""

    OWN = ("own", "a scale of its own")
    EQUAL = ("equal", "equal to the left one")
    HUNDRED = ("hundred", "the same, both at a hundred", "all lines indexed to 100 at a date")


class Ticks(Choice):
    FIT = ("fit", "as fits")
    DAY = ("day", "by day")
    WEEK = ("week", "by week")
    MONTH = ("month", "by month")
    QUARTER = ("quarter", "by quarter")
    YEAR = ("year", "by year")
    FISCAL = ("fiscal", "by fiscal year")


class Shaded(Choice):
    NOTHING = ("nothing", "nothing shaded")
    WEEKENDS = ("weekends", "weekends shaded")
    CLOSED = ("closed", "closed days shaded")


class Said(Choice):
    SAID = ("said", "said")
    UNSAID = ("unsaid", "unsaid")


COLOURS = (
    "lagoon", "ember", "iris", "olive", "sky", "rose", "ochre", "navy", "moss", "umber", "lilac", "slate", "ink",
    "muted",
)  # fmt: skip
PALE = "pale "
EVERY_COLOUR = (*COLOURS, *(f"{PALE}{colour}" for colour in COLOURS))
