"""Proofs by packets over HTTP: begun for the draft as it is, looked at while they go on."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Body
from pydantic import BaseModel, ConfigDict, Field

from anabasis.server.access import may
from anabasis.server.proving import ProofView
from anabasis.server.state import TheState
from anabasis.server.turns import InTurn

MOST = 60
router = APIRouter(
    prefix="/designs/{design_id}/draft/proof", tags=["proof"], dependencies=[may("read")], route_class=InTurn
)


class Wanted(BaseModel):
    """What is to be proved."""

    model_config = ConfigDict(extra="forbid")
    pairs: list[tuple[str, str]] = Field(
        default_factory=list, max_length=MOST, description="Of these segments alone, from and to."
    )
    failed: list[str] = Field(
        default_factory=list, max_length=MOST, description="Boxes, ports or cables that have failed meanwhile."
    )


@router.get("")
def proof(design_id: str, state: TheState) -> ProofView:
    """Return the newest proof of the draft, or how far it is."""
    return state.proofs.view(design_id, state.store.draft(design_id).stamp)


@router.post("", status_code=202)
def begin_proof(design_id: str, wanted: Annotated[Wanted, Body()], state: TheState) -> ProofView:
    """Begin to send packets through the draft, built of network namespaces of this machine; 422 where it has none to give."""
    draft = state.store.draft(design_id)
    state.proofs.begin(design_id, draft, state.clock(), wanted.pairs, wanted.failed)
    return state.proofs.view(design_id, draft.stamp)
