"""Read a list of events, typed or uploaded."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from zembra.api.models.problem import Problem
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.core.entries.readings.events import Events
from zembra.core.errors import Refusal
from zembra.core.intake.eventlist import read_events
from zembra.core.ledger.model import first_fault

blueprint = Resource(
    "events", __name__, url_prefix="/api/events", abp_tags=[Tag(name="events")], abp_responses={422: Problem}
)


class EventText(BaseModel):
    model_config = ConfigDict(extra="forbid")

    text: Annotated[str, Field(max_length=200_000)]


class EventView(BaseModel):
    on: date
    until: date | None
    name: str


class EventList(BaseModel):
    events: list[EventView]


@blueprint.post("", summary="Events read from a text", responses={200: EventList})
def read(body: EventText) -> Response:
    try:
        events = Events.model_validate({"events": read_events(body.text)}).events
    except ValidationError as error:
        raise Refusal(first_fault(error)) from None
    except ValueError as error:
        raise Refusal(
            f"The list cannot be read: {error}.", todo="Write one a line: 2026-03-14, 2026-03-16, storm."
        ) from None
    return reply(EventList(events=[EventView(on=event.on, until=event.until, name=event.name) for event in events]))
