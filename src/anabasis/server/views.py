"""What the screens show, computed from the draft: the climb, the VLAN grid, the matrix, one pair, one thing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Response

from anabasis.climb import Climb, Stage
from anabasis.design import Item, Link, all_links, item
from anabasis.fabric import Cabling, Grid, cabling, vlan_grid
from anabasis.findings import Finding
from anabasis.reach import Matrix, PairView, Plug, ask, matrix, pair_view, plug
from anabasis.server.state import State, TheState, etag
from anabasis.store import Draft

router = APIRouter(prefix="/designs/{design_id}/views", tags=["views"])

Service = Annotated[str | None, Query(description="Only this service: tcp/443, https, any, or a set.")]
Family = Annotated[int | None, Query(description="Only this address family: 4 or 6.")]


@dataclass(frozen=True)
class FindingView:
    """One finding, with its severity and stage from the catalogue."""

    code: str
    severity: str
    stage: str
    sentence: str
    pointers: list[str]
    mend: list[dict[str, object]] | None


@dataclass(frozen=True)
class ClimbView:
    """The rail, and everything to mend."""

    stages: list[Stage]
    begin_at: str | None
    findings: list[FindingView]


def _open(state: State, design_id: str, response: Response) -> tuple[Draft, Climb]:
    draft = state.store.draft(design_id)
    response.headers.update(etag(draft.version))
    return draft, state.climb(draft)


@router.get("/climb")
def climb_view(design_id: str, state: TheState, response: Response) -> ClimbView:
    """Return the stages with the findings that start at each, and the place to begin."""
    _, climb = _open(state, design_id, response)
    return ClimbView(climb.stages, climb.begin_at, [_finding(f) for f in climb.findings])


def _finding(finding: Finding) -> FindingView:
    kind = finding.kind
    return FindingView(kind.code, kind.severity, kind.stage, finding.sentence, list(finding.pointers), finding.mend)


@router.get("/grid")
def grid(design_id: str, state: TheState, response: Response) -> Grid:
    """Return VLANs x ports, and the segments beside the plan."""
    _, climb = _open(state, design_id, response)
    return vlan_grid(climb.site.segments)


@router.get("/cabling")
def cabling_view(design_id: str, state: TheState, response: Response) -> Cabling:
    """Return boxes, cables and bundles, each with its state."""
    _, climb = _open(state, design_id, response)
    return cabling(climb.site.fabric)


@router.get("/plug")
def plug_view(
    design_id: str,
    state: TheState,
    response: Response,
    place: Annotated[str, Query(description="device:port")],
    tag: Annotated[int | None, Query(ge=1, le=4094)] = None,
) -> Plug:
    """Plug a laptop into a port: what it finds, gets and reaches."""
    draft, _ = _open(state, design_id, response)
    return plug(draft.design, place, tag)


@router.get("/matrix")
def matrix_view(
    design_id: str,
    state: TheState,
    response: Response,
    service: Service = None,
    family: Family = None,
    transits: bool = False,
) -> Matrix:
    """Return segments x segments, grouped by zone."""
    _, climb = _open(state, design_id, response)
    return matrix(climb.verdicts(ask(climb.site, service, family)), transits)


@router.get("/pair")
def pair(
    design_id: str,
    state: TheState,
    response: Response,
    source: Annotated[str, Query()],
    target: Annotated[str, Query()],
    service: Service = None,
    family: Family = None,
    passing: bool = False,
) -> PairView:
    """Return one ordered pair: its exact flows, and one flow over the layers, there and back."""
    _, climb = _open(state, design_id, response)
    verdicts = climb.verdicts(ask(climb.site, service, family))
    return pair_view(verdicts, climb.segment(source), climb.segment(target), passing)


@router.get("/item")
def item_view(design_id: str, state: TheState, response: Response, pointer: Annotated[str, Query()]) -> Item:
    """Return the thing a JSON Pointer leads to or into, with what it depends on and what depends on it."""
    draft, _ = _open(state, design_id, response)
    return item(draft.design, draft.tree, pointer)


@router.get("/names")
def names(design_id: str, state: TheState, response: Response) -> list[Link]:
    """Return every named thing of the document, for the finder."""
    draft, _ = _open(state, design_id, response)
    return all_links(draft.tree)
