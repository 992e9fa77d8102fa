"""What is being worked out for a page, how far it is, and a stop to it."""

from __future__ import annotations

from dataclasses import dataclass
from time import monotonic
from typing import Annotated

from fastapi import APIRouter, Header

from anabasis.patience import Watch, Work
from anabasis.server.access import may
from anabasis.server.guard import PAGE
from anabasis.server.state import TheState

router = APIRouter(prefix="/designs/{design_id}/work", tags=["work"], dependencies=[may("read")])


@dataclass(frozen=True)
class Progress:
    """How far the work is that a page waits for."""

    questions: int
    """How many it waits for; 0 = nothing is being worked out for it."""
    seconds: float
    """Since the oldest was asked."""
    work: Work | None
    done: int
    total: int


Page = Annotated[str, Header(alias=PAGE)]


@router.get("")
def progress(design_id: str, state: TheState, page: Page) -> Progress:
    """Tell how far the work is that this page waits for."""
    mine = state.works.of(page, design_id)
    told = next((r.watch for r in mine if r.watch.work is not None), Watch())
    seconds = monotonic() - min((r.began for r in mine), default=monotonic())
    return Progress(len(mine), round(seconds, 1), told.work, told.done, told.total)


@router.delete("", status_code=204)
def stop(design_id: str, state: TheState, page: Page) -> None:
    """Stop the work that this page waits for; its questions are answered with 409."""
    for running in state.works.of(page, design_id):
        running.watch.stop()
