"""What happens to a design while somebody looks at it: server-sent events (WHATWG HTML, section 9.2), and who is where."""

from __future__ import annotations

import asyncio
import contextlib
import json
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool
from starlette.responses import StreamingResponse

from anabasis.errors import NoSuchThing, StoreUnavailable
from anabasis.server.access import Author, ThePerson, may, who_asks
from anabasis.server.hub import CLOSE
from anabasis.server.state import State, TheState
from anabasis.store import Notice

router = APIRouter(tags=["live"])
BREATH_S = 8.0
"""How often a page is told that the line still stands."""
LOOK_S = 1.0
"""How often it is looked whether the page is still there."""
MOST_DESIGNS = 40
"""Of how many designs one line tells."""
Tab = Annotated[str, Field(min_length=1, max_length=40)]
Designs = Annotated[
    list[Annotated[str, Field(max_length=64)]],
    Query(min_length=1, max_length=MOST_DESIGNS, description="The designs to be told of."),
]


class WhereIAm(BaseModel):
    """Where one page is."""

    tab: Tab
    stage: Annotated[str, Field(max_length=40)]
    at: Annotated[str | None, Field(max_length=300)] = None
    gone: bool = False
    """It is closed, or looks at something else."""


@router.post("/designs/{design_id}/here", status_code=204, dependencies=[may("read")])
def here(design_id: str, where: WhereIAm, who: Author, state: TheState) -> None:
    """Say where one is, so that others see it."""
    state.store.tell({"design": design_id, "kind": "here", "who": who, **where.model_dump()})


@router.get("/events", response_class=StreamingResponse)
async def events(request: Request, person: ThePerson, state: TheState, design: Designs) -> StreamingResponse:
    """Tell what happens to some designs: `edit`, `undo`, `redo`, `published`, `here` (who is where), `store` (the database goes and comes).

    Designs that one may not read are left out; 404 where none is left. The line ends when the right to the last one does.
    """

    def readable(designs: list[str]) -> list[str]:
        """Return those that whoever asks may read now."""
        try:
            signed = who_asks(request, state)
            return [d for d in designs if signed is not None and state.people.role(signed.person, d) is not None]
        except StoreUnavailable:
            return designs

    seen = await run_in_threadpool(readable, list(dict.fromkeys(design)))
    if not seen:
        raise NoSuchThing(f"There is no design {design[0]!r}.")

    async def told() -> AsyncIterator[str]:
        mine = seen
        page = state.hub.open(mine)

        async def look() -> None:
            nonlocal mine
            left = await run_in_threadpool(readable, mine)
            lost = [d for d in mine if d not in left]
            state.hub.close(lost, page)
            mine = left
            for one in lost:
                await run_in_threadpool(_leave, state, one, person.name)

        try:
            yield _event({"kind": "store", "up": state.hub.up})
            for one in mine:
                yield _event({"kind": "here", "design": one, "pages": state.hub.here(one)})
            quiet = 0.0
            while mine and not await request.is_disconnected():
                try:
                    notice = await asyncio.wait_for(page.get(), LOOK_S)
                    if notice is CLOSE:
                        return
                    if notice["kind"] != "rights":
                        if notice.get("design", mine[0]) in mine:  # one that came before the right to it went
                            yield _event(notice)
                    elif notice.get("person") in (None, person.id):
                        await look()
                    continue
                except TimeoutError:
                    quiet += LOOK_S
                if quiet >= BREATH_S:
                    quiet = 0.0
                    yield ": still here\n\n"
                    await look()
        finally:
            state.hub.close(mine, page)

    return StreamingResponse(told(), media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})


def _leave(state: State, design: str, who: str) -> None:
    """Tell that no page of somebody is on a design; those that still are say so again."""
    with contextlib.suppress(StoreUnavailable):  # they will be forgotten by themselves
        state.store.tell({"design": design, "kind": "here", "who": who, "tab": "", "stage": "", "gone": True})


def _event(notice: Notice) -> str:
    return f"event: {notice['kind']}\ndata: {json.dumps(notice)}\n\n"
