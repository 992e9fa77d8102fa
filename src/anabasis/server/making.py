"""Making things: forms, proposals, and the edits that make them, previewed with their consequences."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Body, Query

from anabasis.design.choices import Choice, choices
from anabasis.design.forms import FormField, forms
from anabasis.design.making import (
    KINDS,
    BundlePorts,
    CopySegment,
    CopyTenant,
    CopyThing,
    Fresh,
    InlinePair,
    JoinRouted,
    LittleSwitch,
    MakePair,
    NewCables,
    NewDevice,
    NewHost,
    NewPorts,
    NewThing,
    OnlyTheirs,
    PhoneAndDesk,
    RemovePorts,
    RenamePorts,
    UniqueField,
    VlanList,
    WayOut,
    WayOutProposal,
    bundle_ports,
    copy_segment,
    copy_tenant,
    copy_thing,
    fresh,
    inline_pair,
    join_routed,
    little_switch,
    make,
    make_pair,
    new_cables,
    new_device,
    new_host,
    new_ports,
    only_theirs,
    phone_and_desk,
    remove_ports,
    rename_ports,
    segment_fields,
    thing_fields,
    unique_fields,
    vlan_list,
    way_out,
    way_out_proposals,
)
from anabasis.server.access import ThePerson, may
from anabasis.server.drafts import Preview, preview_of
from anabasis.server.state import TheState
from anabasis.server.turns import InTurn
from anabasis.wording import noted

whole = APIRouter(tags=["forms"])
router = APIRouter(prefix="/designs/{design_id}/draft", tags=["making"], dependencies=[may("read")], route_class=InTurn)

At = Annotated[str, Query(description="A JSON Pointer; empty = the design.")]


@dataclass(frozen=True)
class Makeable:
    """One kind of thing that can be made."""

    kind: str
    title: str
    key: str
    owners: list[str]
    model: str


@dataclass(frozen=True)
class Forms:
    """What every kind of thing can say, and which can be made."""

    models: dict[str, list[FormField]]
    makes: list[Makeable]


@whole.get("/forms")
def all_forms(person: ThePerson) -> Forms:
    """Return the form of every model."""
    return Forms(forms(), [Makeable(k, x.title, x.key, list(x.owners), x.model) for k, x in KINDS.items()])


@router.get("/choices")
def what_to_pick(design_id: str, state: TheState, ref: Annotated[str, Query()], at: At = "") -> list[Choice]:
    """Return what a name of some kind may be, as seen from a thing."""
    return choices(state.store.draft(design_id).tree, ref, at)


@router.get("/fresh")
def propose(design_id: str, state: TheState, kind: Annotated[str, Query()], at: At = "") -> Fresh:
    """Return what a new thing would say to begin with, by the site's own pattern."""
    return fresh(state.store.draft(design_id).tree, kind, at)


@router.post("/make")
def preview_make(design_id: str, wanted: Annotated[NewThing, Body()], state: TheState) -> Preview:
    """Work out the edit that makes a thing; send the patch to make it."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, make(draft.tree, wanted))


@router.post("/copy-thing")
def preview_copy(design_id: str, wanted: Annotated[CopyThing, Body()], state: TheState) -> Preview:
    """Work out the edit that adds a copy of a thing; nothing changes yet."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, copy_thing(draft.tree, wanted))


@router.post("/thing-fields")
def fields_of_thing(design_id: str, wanted: Annotated[CopyThing, Body()], state: TheState) -> list[UniqueField]:
    """List what a copy of a thing has of its own, with a value for each; empty = it goes without."""
    return thing_fields(state.store.draft(design_id).tree, wanted)


@router.post("/tenant-fields")
def fields_of_copy(design_id: str, wanted: Annotated[CopyTenant, Body()], state: TheState) -> list[UniqueField]:
    """List what a copy of a tenant has to have of its own, with a value for each."""
    return unique_fields(state.store.draft(design_id).tree, wanted)


@router.post("/copy-tenant")
def preview_tenant(design_id: str, wanted: Annotated[CopyTenant, Body()], state: TheState) -> Preview:
    """Work out the edit that adds another tenant like one there is; nothing changes yet."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, copy_tenant(draft.tree, wanted))


@router.post("/segment-fields")
def fields_of_segment(design_id: str, wanted: Annotated[CopySegment, Body()], state: TheState) -> list[UniqueField]:
    """List what a copy of a VLAN has to have of its own, with a value for each."""
    return segment_fields(state.store.draft(design_id).tree, wanted)


@router.post("/copy-segment")
def preview_segment(design_id: str, wanted: Annotated[CopySegment, Body()], state: TheState) -> Preview:
    """Work out the edit that adds another VLAN like one there is; nothing changes yet."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, copy_segment(draft.tree, wanted))


@router.post("/new-device")
def preview_device(design_id: str, wanted: Annotated[NewDevice, Body()], state: TheState) -> Preview:
    """Work out the edit that adds a box with its ports."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, new_device(draft.tree, wanted))


@router.post("/new-ports")
def preview_ports(design_id: str, wanted: Annotated[NewPorts, Body()], state: TheState) -> Preview:
    """Work out the edit that adds ports to a box, by pattern."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, new_ports(draft.tree, wanted))


@router.post("/new-host")
def preview_host(design_id: str, wanted: Annotated[NewHost, Body()], state: TheState) -> Preview:
    """Work out the edit that puts a host at a free port."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, new_host(draft.tree, wanted))


@router.post("/new-cables")
def preview_cables(design_id: str, wanted: Annotated[NewCables, Body()], state: TheState) -> Preview:
    """Work out the edit that adds cables side by side."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, new_cables(draft.tree, wanted))


@router.post("/bundle")
def preview_bundle(design_id: str, wanted: Annotated[BundlePorts, Body()], state: TheState) -> Preview:
    """Work out the edit that makes ports one bundle."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, bundle_ports(draft.tree, wanted))


@router.post("/inline-pair")
def preview_inline(design_id: str, wanted: Annotated[InlinePair, Body()], state: TheState) -> Preview:
    """Work out the edit that makes two ports of a firewall an inline pair."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, inline_pair(draft.tree, wanted))


@router.post("/little-switch")
def preview_little_switch(design_id: str, wanted: Annotated[LittleSwitch, Body()], state: TheState) -> Preview:
    """Work out the edit that makes spare ports of a firewall a little switch with a gateway."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, little_switch(draft.tree, wanted))


@router.post("/only-theirs")
def preview_only_theirs(design_id: str, wanted: Annotated[OnlyTheirs, Body()], state: TheState) -> Preview:
    """Work out the edit that takes ports out of every VLAN but their own; nothing changes yet."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, only_theirs(draft.tree, wanted))


@router.post("/phone-and-desk")
def preview_phone_and_desk(design_id: str, wanted: Annotated[PhoneAndDesk, Body()], state: TheState) -> Preview:
    """Work out the edit that readies ports for a telephone and a desk behind it; nothing changes yet."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, phone_and_desk(draft.tree, wanted))


@router.post("/join-routed")
def preview_join(design_id: str, wanted: Annotated[JoinRouted, Body()], state: TheState) -> Preview:
    """Work out the edit that joins spare ports to a routed one; nothing changes yet."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, join_routed(draft.tree, wanted))


@router.post("/rename-ports")
def preview_rename_ports(design_id: str, wanted: Annotated[RenamePorts, Body()], state: TheState) -> Preview:
    """Work out the edit that gives ports other names; nothing changes yet."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, rename_ports(draft.tree, wanted))


@router.post("/remove-ports")
def preview_remove_ports(design_id: str, wanted: Annotated[RemovePorts, Body()], state: TheState) -> Preview:
    """Work out the edit that takes ports out, and what goes with them; nothing changes yet."""
    draft = state.store.draft(design_id)
    removal = remove_ports(draft.tree, wanted)
    return preview_of(state, draft, removal.patch, removal.drops)


@router.post("/vlan-list")
def preview_vlan_list(design_id: str, wanted: Annotated[VlanList, Body()], state: TheState) -> Preview:
    """Work out the edit that adds a pasted list of VLANs."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, vlan_list(draft.tree, wanted))


@router.get("/way-out/proposals")
def propose_ways_out(design_id: str, state: TheState) -> list[WayOutProposal]:
    """Return where a way out could begin."""
    return way_out_proposals(state.store.draft(design_id).tree)


@router.post("/way-out")
def preview_way_out(design_id: str, wanted: Annotated[WayOut, Body()], state: TheState) -> Preview:
    """Work out the edit that gives a firewall a way out: port, zone, default route, translation."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, way_out(draft.tree, wanted))


@router.post("/make-pair")
def preview_pair(design_id: str, wanted: Annotated[MakePair, Body()], state: TheState) -> Preview:
    """Work out the edit that makes a firewall a pair, and what it could not cable."""
    draft = state.store.draft(design_id)
    made = make_pair(draft.tree, wanted)
    return preview_of(state, draft, made.patch, missing=[noted(m) for m in made.missing])
