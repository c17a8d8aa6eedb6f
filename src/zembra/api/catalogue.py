"""GET /api/catalogue: all sentences, described for a screen."""

from __future__ import annotations

from functools import cache
from zoneinfo import available_timezones

from flask import Response
from flask_openapi3 import Tag

from zembra.api.models.catalogue import Catalogue, FixedOptions, HandedFileView, KindView, WatchKindView
from zembra.api.picturesview import DRESS
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import words_of
from zembra.core.calendar.closed import holiday_places
from zembra.core.dress.dresswords import EVERY_COLOUR
from zembra.core.dress.language import languages
from zembra.core.feeds.feedwords import FeedHow
from zembra.core.figure.model import FigureSettings
from zembra.core.grammar import Sentence
from zembra.core.handover.handedfiles import HandedFile
from zembra.core.intake.howread import DatesHow, KeepHow, SeriesHow, TableHow, ValuesHow
from zembra.core.judging.asked import Judging
from zembra.core.ledger.registry import kinds
from zembra.core.many.summing import SumWords
from zembra.core.newrows.takingwords import TakingHow
from zembra.core.watching.watchwords import WATCHES, TellHow

blueprint = Resource("catalogue", __name__, url_prefix="/api", abp_tags=[Tag(name="catalogue")])

INTAKE: dict[str, type[Sentence]] = {
    "table": TableHow, "dates": DatesHow, "series": SeriesHow, "values": ValuesHow, "keep": KeepHow,
}  # fmt: skip


@blueprint.get("/catalogue", summary="Entry kinds and intake sentences", responses={200: Catalogue})
def catalogue() -> Response:
    return reply(catalogue_view())


@cache
def catalogue_view() -> Catalogue:
    """Return the catalogue, cached; the first call takes half a second."""
    return Catalogue(
        entries=[
            KindView(
                kind=name,
                group=kind.group.value,
                title=kind.title,
                hint=kind.hint,
                once=kind.once,
                words=words_of(kind),
            )
            for name, kind in kinds().items()
        ],
        intake={name: words_of(model) for name, model in INTAKE.items()},
        figure=words_of(FigureSettings),
        judging=words_of(Judging),
        taking=words_of(TakingHow),
        feed=words_of(FeedHow),
        watches=[
            WatchKindView(title=watch.title, words=words_of(watch), params=watch().model_dump(mode="json"))
            for watch in WATCHES
        ],
        telling=words_of(TellHow),
        summing=words_of(SumWords),
        dress={name: words_of(model) for name, model in DRESS.items()},
        files=[HandedFileView(name=file, group=file.group, about=file.about) for file in HandedFile],
        options=FixedOptions(
            zones=_time_zones(), places=holiday_places(), colours=list(EVERY_COLOUR), languages=list(languages())
        ),
    )


def _time_zones() -> list[str]:
    return sorted(
        zone for zone in available_timezones() if "/" in zone and not zone.startswith(("Etc/", "posix", "right"))
    )
