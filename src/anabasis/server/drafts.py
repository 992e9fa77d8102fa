"""The draft of a design: read, edit (RFC 6902 with If-Match), undo, redo. Every change answers with its consequences."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Body, Depends, Query, Request, Response

from anabasis.design import (
    CopyPort,
    Difference,
    MembershipCell,
    NewMode,
    NewSegment,
    NewVlan,
    Patch,
    SegmentOptions,
    ShortForm,
    apply,
    compare,
    copy_port,
    expect,
    meet,
    new_segment,
    new_vlan,
    remove,
    remove_vlan,
    rename,
    renumber,
    segment_options,
    set_memberships,
    set_short_form,
    suggest_subnet,
    switch_mode,
)
from anabasis.design.edits import patched
from anabasis.design.files import parse_text
from anabasis.errors import Outdated
from anabasis.server.access import Author, may
from anabasis.server.state import SeenVersion, State, TheState, etag
from anabasis.server.turns import InTurn
from anabasis.store import Draft, EditRecord
from anabasis.verdicts import Consequences

router = APIRouter(prefix="/designs/{design_id}", tags=["draft"], dependencies=[may("read")], route_class=InTurn)
EDIT = [may("edit")]


@dataclass(frozen=True)
class DraftView:
    """The draft as it is."""

    id: str
    name: str
    version: int
    can_undo: bool
    can_redo: bool
    undo_of: str | None
    """Whose edit an undo takes back."""
    document: dict[str, Any]


@dataclass(frozen=True)
class Edited:
    """What a change did."""

    version: int
    can_undo: bool
    can_redo: bool
    undo_of: str | None
    """Whose edit an undo takes back."""
    patch: list[dict[str, Any]]
    consequences: Consequences


@router.get("/draft")
def read(design_id: str, state: TheState, response: Response) -> DraftView:
    """Return the draft."""
    draft = state.store.draft(design_id)
    response.headers.update(etag(draft.version))
    named = draft.id, draft.design.name, draft.version
    return DraftView(*named, draft.can_undo, draft.can_redo, draft.undo_of, draft.tree)


async def _once_only(request: Request) -> None:
    """Raise UnreadableFile where a key stands twice in an object: of two values a reader would silently take one (RFC 8259 section 4)."""
    body = (await request.body()).decode(errors="replace")
    if body.lstrip()[:1] == "[":  # anything else is no patch, and is refused as none
        parse_text(body)


@router.patch("/draft", dependencies=[*EDIT, Depends(_once_only)])
def edit(
    design_id: str,
    patch: Annotated[list[dict[str, Any]], Body(media_type="application/json-patch+json")],
    seen: SeenVersion,
    state: TheState,
    response: Response,
    author: Author,
) -> Edited:
    """Apply a JSON Patch to the draft, whole or not at all."""
    return edit_draft(state, state.store.draft(design_id), seen, patch, author, response)


@router.post("/draft/memberships", dependencies=EDIT)
def set_cells(
    design_id: str,
    cells: Annotated[list[MembershipCell], Body()],
    seen: SeenVersion,
    state: TheState,
    response: Response,
    author: Author,
) -> Edited:
    """Make ports tagged, untagged or no members of VLANs, many cells in one edit."""
    patch = set_memberships(state.store.tree_at(design_id, seen), cells)
    return edit_draft(state, state.store.draft(design_id), seen, patch, author, response)


@dataclass(frozen=True)
class Preview:
    """What an edit would do."""

    patch: list[dict[str, Any]]
    consequences: Consequences
    come: list[str]
    """Findings that it would bring."""
    gone: list[str]
    """Findings that it would mend."""
    drops: list[str]
    """What goes with it, in words."""
    missing: list[str]
    """What it still lacks afterwards."""
    words: list[Difference]
    """What it does to the document, thing by thing, in words."""


def preview_of(
    state: State, draft: Draft, patch: Patch, drops: Sequence[str] = (), missing: Sequence[str] = ()
) -> Preview:
    """Say what an edit would do."""
    before = state.climb(draft)
    after = before.edited(apply(draft.tree, patch, draft.design)[1])
    come, gone = ([f.sentence for f in side] for side in after.findings_since(before))
    words = compare(draft.tree, patched(draft.tree, patch))
    return Preview(patch, after.consequences_since(before), come, gone, list(drops), list(missing), words)


@router.post("/draft/preview")
def preview(
    design_id: str,
    patch: Annotated[list[dict[str, Any]], Body(media_type="application/json-patch+json")],
    state: TheState,
) -> Preview:
    """Say what a JSON Patch would do, without doing it."""
    return preview_of(state, state.store.draft(design_id), patch)


@router.post("/draft/new-vlan")
def preview_new_vlan(design_id: str, wanted: Annotated[NewVlan, Body()], state: TheState) -> Preview:
    """Work out the edit that makes a new VLAN, and what it would do; send the patch to make it."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, new_vlan(draft.tree, wanted))


@router.get("/draft/new-vlan/{vlan}/subnet")
def subnet(design_id: str, vlan: int, state: TheState) -> str | None:
    """Suggest a subnet for a new VLAN by the site's pattern."""
    return suggest_subnet(state.store.draft(design_id).design, vlan)


@router.post("/draft/remove-vlan/{vlan}")
def preview_remove_vlan(design_id: str, vlan: int, state: TheState) -> Preview:
    """Work out the edit that takes a VLAN out everywhere, and what it would do; send the patch to make it."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, remove_vlan(draft.tree, vlan))


@router.post("/draft/new-segment")
def preview_new_segment(design_id: str, wanted: Annotated[NewSegment, Body()], state: TheState) -> Preview:
    """Work out the edit that makes a segment in one go, and what it would do; send the patch to make it."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, new_segment(draft.tree, wanted))


@dataclass(frozen=True)
class NewName:
    """Another name for a thing, or another number for a VLAN."""

    pointer: str
    name: str | None = None
    number: int | None = None


@router.post("/draft/rename")
def preview_rename(design_id: str, wanted: Annotated[NewName, Body()], state: TheState) -> Preview:
    """Work out the edit that renames a thing, or renumbers a VLAN, with every reference; send the patch to make it."""
    draft = state.store.draft(design_id)
    patch = (
        renumber(draft.tree, wanted.pointer, wanted.number)
        if wanted.number is not None
        else rename(draft.tree, wanted.pointer, wanted.name or "")
    )
    return preview_of(state, draft, patch)


@router.post("/draft/remove")
def preview_remove(
    design_id: str, pointer: Annotated[str, Body(embed=True, description="The thing.")], state: TheState
) -> Preview:
    """Work out the edit that takes a thing out, with what leans on it, and what it would do; send the patch to make it."""
    draft = state.store.draft(design_id)
    removal = remove(draft.tree, pointer)
    return preview_of(state, draft, removal.patch, removal.drops)


@router.post("/draft/copy-port")
def preview_copy_port(design_id: str, wanted: Annotated[CopyPort, Body()], state: TheState) -> Preview:
    """Work out the edit that makes other ports like one, and what it would do; send the patch to make it."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, copy_port(draft.tree, wanted))


@router.post("/draft/switch-mode")
def preview_switch_mode(design_id: str, wanted: Annotated[NewMode, Body()], state: TheState) -> Preview:
    """Work out the edit that switches a port to another mode: what it drops, and what is still missing; send the patch to make it."""
    draft = state.store.draft(design_id)
    switched = switch_mode(draft.tree, wanted)
    return preview_of(state, draft, switched.patch, switched.drops, switched.missing)


@router.post("/draft/short-form")
def preview_short_form(design_id: str, wanted: Annotated[ShortForm, Body()], state: TheState) -> Preview:
    """Work out the edit that makes ports access ports, trunks or desk ports, and what it would do; send the patch to make it."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, set_short_form(draft.tree, wanted))


@dataclass(frozen=True)
class Wish:
    """What one segment may, or may not, open to another."""

    source: str
    target: str
    service: str
    expect: Literal["open", "closed"] = "open"


@dataclass(frozen=True)
class RuleProposal:
    """One edit that would grant it."""

    words: str
    preview: Preview


@router.post("/draft/proposals")
def propose_rules(design_id: str, wish: Annotated[Wish, Body()], state: TheState) -> list[RuleProposal]:
    """Work out which rules would have to change so that one segment may, or may not, reach another: the narrowest edit first."""
    draft = state.store.draft(design_id)
    found = state.climb(draft).propose(wish.source, wish.target, wish.service, wish.expect)
    return [RuleProposal(p.words, preview_of(state, draft, p.patch)) for p in found]


@dataclass(frozen=True)
class Pair:
    """Two segments."""

    source: str
    target: str


@router.post("/draft/keep-as-it-is")
def preview_keep(design_id: str, pair: Annotated[Pair, Body()], state: TheState) -> Preview:
    """Work out the edit that expects what holds between two segments now; send the patch to make it."""
    draft = state.store.draft(design_id)
    return preview_of(state, draft, expect(draft.tree, state.climb(draft).keep_as_it_is(pair.source, pair.target)))


@router.get("/draft/new-segment/options")
def new_segment_options(design_id: str, state: TheState) -> SegmentOptions:
    """Return what a new segment can be made of: purposes, firewalls with their ports and zones, ports, and a free VLAN number."""
    return segment_options(state.store.draft(design_id).design)


@router.post("/draft/undo", dependencies=EDIT)
def undo(design_id: str, seen: SeenVersion, state: TheState, response: Response, author: Author) -> Edited:
    """Take the last edit back."""
    before = state.store.draft(design_id)
    after = state.store.undo(design_id, seen, author, state.clock())
    return _done(state, before, after, state.store.edits(design_id, before.version)[-1].patch, response)


@router.post("/draft/redo", dependencies=EDIT)
def redo(design_id: str, seen: SeenVersion, state: TheState, response: Response, author: Author) -> Edited:
    """Do the last edit taken back again."""
    before = state.store.draft(design_id)
    after = state.store.redo(design_id, seen, author, state.clock())
    return _done(state, before, after, state.store.edits(design_id, before.version)[-1].patch, response)


@router.get("/draft/last-edit")
def last_edit(design_id: str, state: TheState, response: Response) -> Edited:
    """Return what the last edit did, so that a page opened anew can still say so."""
    before, now = state.store.before_last(design_id)
    patch = state.store.edits(design_id, before.version)[-1].patch if before is not now else []
    return _done(state, before, now, patch, response)


@router.get("/edits")
def edits(
    design_id: str,
    state: TheState,
    since: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> list[EditRecord]:
    """List the edits after a version, the oldest first; the next page begins after the last version told."""
    return state.store.edits(design_id, since, limit)


def edit_draft(state: State, before: Draft, seen: int, patch: Patch, author: str, response: Response) -> Edited:
    """Make an edit of the draft a person saw. Raises Outdated with what both changed, where somebody else was faster."""
    if not patch and seen == before.version:
        return _done(state, before, before, patch, response)  # nothing is asked, so nothing is written
    try:
        after = state.store.edit(before.id, seen, patch, author, state.clock())
    except Outdated as outdated:
        outdated.clash = _meeting(state, before.id, seen, patch)
        raise
    return _done(state, before, after, patch, response)


def _meeting(state: State, id_: str, seen: int, patch: Patch) -> dict[str, Any] | None:
    """Return how an edit meets those made meanwhile, with the version it is then written for."""
    now = state.store.draft(id_)
    if not 0 < seen < now.version:
        return None
    base = state.store.tree_at(id_, seen)
    return {"version": now.version, **asdict(meet(base, patched(base, patch), now.tree))}


def _done(state: State, before: Draft, after: Draft, patch: Patch, response: Response) -> Edited:
    response.headers.update(etag(after.version))
    consequences = state.climb(after).consequences_since(state.climb(before))
    return Edited(after.version, after.can_undo, after.can_redo, after.undo_of, patch, consequences)
