"""Failover of a draft: the units, one event, the drill sheet, and sweeps that go on in the background."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Query, Response

from anabasis.server.access import Author, may
from anabasis.server.state import TheState, etag
from anabasis.server.sweeps import Sweep
from anabasis.server.turns import InTurn
from anabasis.views import DrillView, EventRow, PairStand, drill_view, event_row

router = APIRouter(
    prefix="/designs/{design_id}/failover", tags=["failover"], dependencies=[may("read")], route_class=InTurn
)
Failed = Annotated[
    Sequence[str], Query(description="What has failed: a unit, a device, unit:port, or a cable a:1--b:2.")
]
Depth = Annotated[int, Query(ge=1, le=2, description="Single failures, or every two as well.")]


@router.get("/pairs")
def pairs(design_id: str, state: TheState, response: Response) -> list[PairStand]:
    """Return the two units of every pair side by side."""
    draft = state.store.draft(design_id)
    response.headers.update(etag(draft.version))
    return state.climb(draft).pairs


@router.get("/event")
def event(
    design_id: str,
    state: TheState,
    response: Response,
    failed: Failed = (),
    active: Annotated[Sequence[str], Query(description="Units that are active now.")] = (),
) -> EventRow:
    """Say what happens when some parts fail."""
    draft = state.store.draft(design_id)
    response.headers.update(etag(draft.version))
    return event_row(state.climb(draft).failover(failed, active))


@router.get("/drill")
def drill(design_id: str, state: TheState, pair: Annotated[str, Query()]) -> DrillView:
    """Return the steps of a failover drill."""
    return drill_view(state.climb(state.store.draft(design_id)).drill(pair))


@router.post("/sweep", dependencies=[may("edit")])
def begin(design_id: str, state: TheState, by: Author, depth: Depth = 1) -> Sweep:
    """Begin to try every failure; ask for it again to see how far it is. Who may edit."""
    draft = state.store.draft(design_id)
    return state.sweeps.start(design_id, draft.version, draft.stamp, draft.design, depth, by)


@router.get("/sweep")
def progress(design_id: str, state: TheState) -> Sweep:
    """Return how far the sweep is, and what it found once it has ended."""
    return state.sweeps.get(design_id)


@router.delete("/sweep")
def stop(design_id: str, state: TheState, by: Author) -> Sweep:
    """Stop one's own sweep; what it has found by then is kept."""
    return state.sweeps.stop(design_id, by)
