"""What the screens show, computed from the draft: the climb, the VLAN grid, the matrix, one pair, one thing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Body, Query, Response
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel, Field

from anabasis.climb import Climb, Stage, breaking_edit
from anabasis.design import Item, Link, Tree, all_links, has_schedules, item
from anabasis.design.schedules import AsOf, parse_as_of
from anabasis.errors import InputRefused, Problem
from anabasis.fabric import conditions_of
from anabasis.finder import Hit, find
from anabasis.findings import Finding, Offer, Severity, StageName, offers
from anabasis.interchange import matrix_svg
from anabasis.probe import Exposure, OwnAddresses, exposure, own_addresses
from anabasis.server.access import may
from anabasis.server.guard import PICTURE_POLICY
from anabasis.server.state import State, TheState, etag
from anabasis.server.turns import InTurn
from anabasis.store import Draft, EditRecord
from anabasis.verdicts import Consequences, Unasked, ask
from anabasis.views import (
    TILE,
    AnswersGrid,
    CableEnds,
    Cabling,
    DeviceRouting,
    ExpectationRow,
    FirewallPolicy,
    Grid,
    LookupView,
    Matrix,
    MatrixMap,
    PacketView,
    PairView,
    PlugRow,
    SegmentDrawing,
    Strip,
    TileCell,
    answers_grids,
    cable_ends,
    cabling,
    expectation_rows,
    lookup_view,
    matrix,
    matrix_csv,
    matrix_map,
    matrix_tile,
    packet_view,
    pair_view,
    plug_row,
    routing_overview,
    segment_drawing,
    strips,
    vlan_grid,
)

router = APIRouter(prefix="/designs/{design_id}/views", tags=["views"], dependencies=[may("read")], route_class=InTurn)

LOOKED_BACK = 50
"""How many edits are undone in thought to find the one that broke an expectation."""

Service = Annotated[str | None, Query(description="Only this service: tcp/443, https, any, or a set.")]
Failed = Annotated[
    Sequence[str], Query(description="What has failed: a unit, a device, unit:port, or a cable a:1--b:2.")
]
At = Annotated[
    str | None, Query(alias="as_of", description="As it is then: a local time, or always; left out = at some time.")
]
Family = Annotated[int | None, Query(description="Only this address family: 4 or 6.")]


class Tile(BaseModel):
    """A part of the map, by the segments of its rows and columns."""

    sources: Annotated[list[str], Field(max_length=TILE)]
    targets: Annotated[list[str], Field(max_length=TILE)]


@dataclass(frozen=True)
class ChoiceView:
    """Another edit that mends a finding, and what it does."""

    words: str
    patch: list[dict[str, object]]


@dataclass(frozen=True)
class FindingView:
    """One finding, with its severity and stage from the catalogue."""

    code: str
    severity: Severity
    stage: StageName
    sentence: str
    pointers: list[str]
    mend: list[dict[str, object]] | None
    also: list[ChoiceView]
    """Other edits that mend it."""
    makes: list[Offer]
    """What a person could make that would."""


@dataclass(frozen=True)
class ClimbView:
    """The rail, and everything to mend."""

    stages: list[Stage]
    begin_at: str | None
    findings: list[FindingView]


def _open(state: State, design_id: str, response: Response, at: str | None = None) -> tuple[Draft, Climb]:
    draft = state.store.draft(design_id)
    response.headers.update(etag(draft.version))
    return draft, state.climb(draft, at=_time(at))


def _time(text: str | None) -> AsOf | None:
    if text is None:
        return None
    try:
        return parse_as_of(text)
    except ValueError as wrong:
        raise InputRefused([Problem("/as_of", "badly written", repr(text), f"always, or {wrong}")]) from None


@router.get("/climb")
def climb_view(design_id: str, state: TheState, response: Response) -> ClimbView:
    """Return the stages with the findings that start at each, and the place to begin."""
    draft, climb = _open(state, design_id, response)
    return ClimbView(climb.stages, climb.begin_at, [_finding(draft.tree, f) for f in climb.findings])


def _finding(tree: Tree, finding: Finding) -> FindingView:
    kind, text, places = finding.kind, finding.sentence, list(finding.pointers)
    also = [ChoiceView(c.words, c.patch) for c in finding.also]
    makes = offers(tree, finding)
    return FindingView(kind.code, kind.severity, kind.stage, text, places, finding.mend, also, makes)


@router.get("/grid")
def grid(design_id: str, state: TheState, response: Response) -> Grid:
    """Return VLANs x ports, and the segments beside the plan."""
    _, climb = _open(state, design_id, response)
    return vlan_grid(climb.site.segments)


@router.get("/ends")
def ends(design_id: str, state: TheState, response: Response) -> list[CableEnds]:
    """Return both ends of every cable that carries VLANs, those that differ first."""
    draft, climb = _open(state, design_id, response)
    return cable_ends(climb.site.fabric, draft.tree)


@router.get("/cabling")
def cabling_view(design_id: str, state: TheState, response: Response, failed: Failed = ()) -> Cabling:
    """Return boxes, cables and bundles, each with its state."""
    draft, _ = _open(state, design_id, response)
    conditions = conditions_of(draft.design, failed)
    site = state.climb(draft, conditions).site
    return cabling(site.fabric, site.conditions)


@router.get("/segment-drawing")
def segment_drawing_view(design_id: str, state: TheState, response: Response) -> SegmentDrawing:
    """Return segments and the boxes that route between them."""
    _, climb = _open(state, design_id, response)
    return segment_drawing(climb.site.net)


@router.get("/what-if")
def what_if(design_id: str, state: TheState, response: Response, failed: Failed = ()) -> Consequences:
    """Say what reach is lost, and what opens, while these parts have failed."""
    draft, well = _open(state, design_id, response)
    return state.climb(draft, conditions_of(draft.design, failed)).consequences_since(well)


@router.get("/plug")
def plug_view(
    design_id: str,
    state: TheState,
    response: Response,
    place: Annotated[str, Query(description="device:port")],
    tag: Annotated[int | None, Query(ge=0, le=4094)] = None,
) -> PlugRow:
    """Plug a laptop into a port: what it finds, gets and reaches."""
    _, climb = _open(state, design_id, response)
    return plug_row(climb.plug(place, tag))


@router.get("/matrix")
def matrix_view(
    design_id: str,
    state: TheState,
    response: Response,
    service: Service = None,
    family: Family = None,
    transits: bool = False,
    at: At = None,
) -> Matrix:
    """Return segments x segments, grouped by zone."""
    draft, climb = _open(state, design_id, response, at)
    always = state.climb(draft, at="always") if at is None and has_schedules(draft.design) else None
    ever = always.verdicts(ask(always.site, service, family)) if always is not None else None
    return matrix(climb.verdicts(ask(climb.site, service, family)), transits, ever)


@router.get("/matrix-map")
def map_view(
    design_id: str,
    state: TheState,
    response: Response,
    service: Service = None,
    family: Family = None,
    transits: bool = False,
    group: Annotated[Literal["zone", "vlan", "device"], Query()] = "zone",
    order: Annotated[Literal["plan", "like"], Query()] = "plan",
    fold: Annotated[list[str] | None, Query(description="Groups shown as one row and column.")] = None,
    at: At = None,
) -> MatrixMap:
    """Return segments x segments as letters, for sites of any size."""
    _, climb = _open(state, design_id, response, at)
    return matrix_map(climb.verdicts(ask(climb.site, service, family)), group, order, frozenset(fold or ()), transits)


@router.post("/matrix-tile")
def tile_view(
    design_id: str,
    wanted: Annotated[Tile, Body()],
    state: TheState,
    response: Response,
    service: Service = None,
    family: Family = None,
    at: At = None,
) -> list[TileCell]:
    """Return what the letters of a part of the map leave open."""
    _, climb = _open(state, design_id, response, at)
    return matrix_tile(climb.verdicts(ask(climb.site, service, family)), wanted.sources, wanted.targets)


@router.get("/own-addresses")
def own_view(design_id: str, state: TheState, response: Response) -> OwnAddresses:
    """Return what each segment may ask of the firewalls' own addresses."""
    _, climb = _open(state, design_id, response)
    return own_addresses(climb.verdicts())


@router.get("/matrix.csv", response_class=PlainTextResponse, responses={200: {"content": {"text/csv": {}}}})
def matrix_file(
    design_id: str,
    state: TheState,
    service: Service = None,
    family: Family = None,
    transits: bool = False,
    at: At = None,
) -> PlainTextResponse:
    """Return the matrix as CSV (RFC 4180), one line an ordered pair."""
    climb = state.climb(state.store.draft(design_id), at=_time(at))
    text = matrix_csv(climb.verdicts(ask(climb.site, service, family)), transits)
    return PlainTextResponse(
        text, media_type="text/csv", headers={"Content-Disposition": 'attachment; filename="reach.csv"'}
    )


@router.get("/matrix.svg", response_class=Response, responses={200: {"content": {"image/svg+xml": {}}}})
def matrix_picture(
    design_id: str,
    state: TheState,
    service: Service = None,
    family: Family = None,
    transits: bool = False,
    at: At = None,
) -> Response:
    """Return the matrix as a picture (SVG 1.1)."""
    climb = state.climb(state.store.draft(design_id), at=_time(at))
    text = matrix_svg(matrix(climb.verdicts(ask(climb.site, service, family)), transits))
    said = {"Content-Disposition": 'attachment; filename="reach.svg"', "Content-Security-Policy": PICTURE_POLICY}
    return Response(text, media_type="image/svg+xml", headers=said)


@router.get("/packet")
def packet(
    design_id: str,
    state: TheState,
    response: Response,
    source: Annotated[str, Query(description="An address, a segment, or device:port.")],
    target: Annotated[str, Query()],
    service: Annotated[str, Query()] = "ping",
    at: At = None,
) -> PacketView:
    """Walk one packet there and back."""
    _, climb = _open(state, design_id, response, at)
    return packet_view(climb.verdicts(), source, target, service)


@router.get("/exposure")
def exposure_view(
    design_id: str,
    state: TheState,
    response: Response,
    place: Annotated[str, Query(description="An address, a segment, or device:port.")],
    at: At = None,
) -> list[Exposure]:
    """Say what one address reaches, and who reaches it."""
    _, climb = _open(state, design_id, response, at)
    return exposure(climb.verdicts(), place)


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
    at: At = None,
) -> PairView:
    """Return one ordered pair: its exact flows, and one flow over the layers, there and back."""
    _, climb = _open(state, design_id, response, at)
    verdicts = climb.verdicts(ask(climb.site, service, family))
    return pair_view(verdicts, climb.segment(source), climb.segment(target), passing)


@dataclass(frozen=True)
class RoutingView:
    """Layer 3 of the whole site."""

    devices: list[DeviceRouting]
    strips: list[Strip]


@router.get("/routing")
def routing_view(design_id: str, state: TheState, response: Response) -> RoutingView:
    """Return interfaces, the table of every VRF, and the strips of what is leased."""
    _, climb = _open(state, design_id, response)
    return RoutingView(routing_overview(climb.site.net), strips(climb.site.net))


@router.get("/lookup")
def lookup(
    design_id: str,
    state: TheState,
    response: Response,
    device: Annotated[str, Query()],
    address: Annotated[str, Query()],
    vrf: Annotated[str, Query()] = "main",
) -> LookupView:
    """Say which route wins for an address, and why the others lose."""
    _, climb = _open(state, design_id, response)
    return lookup_view(climb.site.net, device, vrf, address)


@dataclass(frozen=True)
class PolicyView:
    """The policies of all firewalls, and what they answer to whom."""

    firewalls: list[FirewallPolicy]
    answers: list[AnswersGrid]


@router.get("/zones")
def zones_view(
    design_id: str,
    state: TheState,
    response: Response,
    look: Annotated[str, Query(description="An address, a service or part of a name that rules are marked by.")] = "",
) -> PolicyView:
    """Return zones against zones, the rules in order, translations, and what every box answers."""
    _, climb = _open(state, design_id, response)
    return PolicyView(climb.policies(look), answers_grids(climb.site))


@dataclass(frozen=True)
class ExpectationsView:
    """What is expected, and what else one could expect."""

    expectations: list[ExpectationRow]
    suggestions: list[dict[str, object]]
    """Further ones that hold now, ready to be added."""
    unasked: Unasked
    """What passes though no expectation and no purpose speaks of it."""


@router.get("/expectations")
def expectations_view(design_id: str, state: TheState, response: Response) -> ExpectationsView:
    """Return every expectation with its verdict, and suggestions."""
    _, climb = _open(state, design_id, response)
    return ExpectationsView(expectation_rows(climb.expectations), climb.suggestions, climb.unasked)


@router.get("/broken-by")
def broken_by(design_id: str, state: TheState, response: Response, name: Annotated[str, Query()]) -> EditRecord | None:
    """Return the edit that broke an expectation; null where it never held in the edits kept."""
    draft, _ = _open(state, design_id, response)
    kept = state.store.edits(design_id, max(0, draft.version - LOOKED_BACK))[::-1]
    version = breaking_edit(draft.tree, [(e.version, e.inverse) for e in kept], name)
    return next((e for e in kept if e.version == version), None)


@router.get("/item")
def item_view(design_id: str, state: TheState, response: Response, pointer: Annotated[str, Query()]) -> Item:
    """Return the thing a JSON Pointer leads to or into, with what it depends on and what depends on it."""
    draft, _ = _open(state, design_id, response)
    return item(draft.tree, pointer)


@router.get("/find")
def find_view(
    design_id: str,
    state: TheState,
    response: Response,
    text: Annotated[
        str, Query(max_length=200, description="A few letters, an address, a prefix, a service, two segments.")
    ],
) -> list[Hit]:
    """Return what matches best, a page of it."""
    draft, climb = _open(state, design_id, response)
    return find(climb, draft.tree, text)


@router.get("/names")
def names(design_id: str, state: TheState, response: Response) -> list[Link]:
    """Return every named thing of the document, for the finder."""
    draft, _ = _open(state, design_id, response)
    return all_links(draft.tree)
