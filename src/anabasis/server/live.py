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

from anabasis.errors import AnabasisError, StoreUnavailable
from anabasis.server.access import Author, ThePerson, check, cookie_name, may
from anabasis.server.hub import CLOSE
from anabasis.server.state import State, TheState
from anabasis.store import Notice

router = APIRouter(prefix="/designs/{design_id}", tags=["live"])
BREATH_S = 8.0
"""How often a page is told that the line still stands."""
LOOK_S = 1.0
"""How often it is looked whether the page is still there."""
Tab = Annotated[str, Field(min_length=1, max_length=40)]


class WhereIAm(BaseModel):
    """Where one page is."""

    tab: Tab
    stage: Annotated[str, Field(max_length=40)]
    at: Annotated[str | None, Field(max_length=300)] = None


@router.post("/here", status_code=204, dependencies=[may("read")])
def here(design_id: str, where: WhereIAm, who: Author, state: TheState) -> None:
    """Say where one is, so that others see it."""
    state.store.tell({"design": design_id, "kind": "here", "who": who, **where.model_dump()})


@router.get("/events", dependencies=[may("read")], response_class=StreamingResponse)
async def events(
    design_id: str, request: Request, person: ThePerson, state: TheState, tab: Annotated[str, Query(max_length=40)] = ""
) -> StreamingResponse:
    """Tell what happens: `edit`, `undo`, `redo`, `published`, `here` (who is where), `store` (the database goes and comes)."""

    cookie = request.cookies.get(cookie_name(request))

    def allowed() -> bool:
        try:
            if state.people.signed(cookie, state.clock()) is None:
                return False
            check(state, person, design_id, "read")
        except StoreUnavailable:
            return True
        except AnabasisError:
            return False
        return True

    async def ended(notice: Notice) -> bool:
        """Tell whether this is over for the one who looks: signed out, shut out, or without the right to read."""
        return notice.get("person") in (None, person.id) and not await run_in_threadpool(allowed)

    async def told() -> AsyncIterator[str]:
        page = state.hub.open(design_id)
        try:
            yield _event({"kind": "store", "up": state.hub.up})
            yield _event({"kind": "here", "pages": state.hub.here(design_id)})
            quiet = 0.0
            while not await request.is_disconnected():
                try:
                    notice = await asyncio.wait_for(page.get(), LOOK_S)
                    if notice is CLOSE or (notice["kind"] == "rights" and await ended(notice)):
                        return
                    if notice["kind"] == "rights":
                        continue
                    yield _event(notice)
                    continue
                except TimeoutError:
                    quiet += LOOK_S
                if quiet >= BREATH_S:
                    quiet = 0.0
                    yield ": still here\n\n"
                    if not await run_in_threadpool(allowed):
                        return
        finally:
            state.hub.close(design_id, page)
            if tab:
                asyncio.get_running_loop().run_in_executor(None, _leave, state, design_id, tab, person.name)

    return StreamingResponse(told(), media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})


def _leave(state: State, design: str, tab: str, who: str) -> None:
    with contextlib.suppress(StoreUnavailable):  # it will be forgotten by itself
        state.store.tell({"design": design, "kind": "here", "tab": tab, "who": who, "stage": "", "gone": True})


def _event(notice: Notice) -> str:
    return f"event: {notice['kind']}\ndata: {json.dumps(notice)}\n\n"
