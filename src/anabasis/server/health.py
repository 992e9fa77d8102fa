"""Whether it runs: asked by whoever watches over the server, who is not signed in."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response
from prometheus_client import CONTENT_TYPE_LATEST

from anabasis import __version__
from anabasis.errors import StoreUnavailable
from anabasis.server.logs import Counts
from anabasis.server.state import TheState

router = APIRouter(include_in_schema=False)


@dataclass(frozen=True)
class Health:
    """What is well."""

    version: str
    database: bool


@router.get("/metrics")
def metrics(request: Request, state: TheState) -> Response:
    """Answer what is counted, in Prometheus' text form; nothing of what is stored is told."""
    counts: Counts = request.app.state.counts
    counts.pages.set(state.hub.open_pages)
    counts.kept.set(state.kept)
    counts.database.set(state.hub.up)
    return Response(counts.text(), media_type=CONTENT_TYPE_LATEST)


@router.get("/healthz")
def health(state: TheState, response: Response) -> Health:
    """Answer 200 where the database answers, else 503; nothing of what is stored is told."""
    try:
        state.store.answers()
        well = True
    except StoreUnavailable:
        well = False
    response.status_code = 200 if well else 503
    response.headers["Cache-Control"] = "no-store"
    return Health(__version__, well)
