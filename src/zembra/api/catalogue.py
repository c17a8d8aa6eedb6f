"""GET /api/catalogue: every sentence there is, described for a screen."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from zembra.api.models import Catalogue, KindView
from zembra.api.reply import reply
from zembra.api.views import words_of
from zembra.core.grammar import Sentence
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.entry import kinds

blueprint = APIBlueprint("catalogue", __name__, url_prefix="/api", abp_tags=[Tag(name="catalogue")])


@blueprint.get("/catalogue", summary="Entry kinds and intake sentences", responses={200: Catalogue})
def catalogue() -> Response:
    return reply(
        Catalogue(
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
            intake={
                name: words_of(info.annotation)
                for name, info in HowRead.model_fields.items()
                if isinstance(info.annotation, type) and issubclass(info.annotation, Sentence)
            },
        )
    )
