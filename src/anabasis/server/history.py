"""Published revisions, what-ifs, comparisons, and the log."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal
from uuid import uuid4

from fastapi import APIRouter, Depends, Query, Response
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel, Field

from anabasis.climb import Climb
from anabasis.comparison import Comparison, compare_states
from anabasis.design import (
    Clash,
    Siblings,
    Tree,
    difference,
    meet,
    parse_design,
    parse_text,
    siblings,
)
from anabasis.errors import InputRefused, NotHolding, Outdated, Problem
from anabasis.server.access import Author, ThePerson, by_whom, check, may, owner_only
from anabasis.server.designs import FILE_BODY, Form, TheFile, as_file
from anabasis.server.drafts import Edited, Preview, edit_draft, preview_of
from anabasis.server.state import SeenVersion, State, TheState
from anabasis.server.turns import InTurn
from anabasis.store import Branch, Deed, Draft, Person, Revision, Summary, stamp_of

router = APIRouter(prefix="/designs/{design_id}", tags=["history"], dependencies=[may("read")], route_class=InTurn)
whole = APIRouter(tags=["history"])
Reason = Annotated[str, Field(min_length=1, max_length=2000, pattern=r"\S")]


class Publish(BaseModel):
    """Why the draft becomes the next revision; `forced`: why although expectations fail."""

    reason: Reason
    forced: Reason | None = None


class NewBranch(BaseModel):
    """A what-if: of a revision, or of the draft where none is given."""

    title: Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
    revision: Annotated[int | None, Field(ge=1, le=2**31 - 1)] = None


@dataclass(frozen=True)
class Folding:
    """What folding a what-if back would do."""

    into: str
    """The design it was branched off."""
    version: int
    """The version of that design's draft; send it as If-Match."""
    clashes: list[Clash]
    """What both changed; `mine` is the what-if."""
    preview: Preview


@router.get("/revisions")
def revisions(design_id: str, state: TheState) -> list[Revision]:
    """List the published revisions, the newest first."""
    return state.history.revisions(design_id)


@router.post("/revisions", status_code=201, dependencies=[may("publish")])
def publish(design_id: str, wanted: Publish, seen: SeenVersion, who: Author, state: TheState) -> Revision:
    """Publish the draft. 409 while expectations fail and no reason is given to publish all the same."""
    draft = state.store.draft(design_id)
    if draft.version != seen:
        raise Outdated(seen, draft.version, [])
    failing = [e.name for e in state.climb(draft).expectations if not e.holds]
    if failing and wanted.forced is None:
        raise NotHolding(failing)
    forced = wanted.forced if failing else None
    return state.history.publish(design_id, seen, draft.stamp, wanted.reason, failing, forced, who, state.clock())


Number = Annotated[int, Field(ge=1, le=2**31 - 1)]


@router.get("/revisions/{number}/file", response_class=Response)
def take_out(design_id: str, number: Number, state: TheState, form: Form = "yaml") -> Response:
    """Return a revision as a design file."""
    return as_file(state.history.document(design_id, number), form, f"-revision-{number}")


@router.post("/revisions/{number}/restore", dependencies=[may("edit")])
def restore(
    design_id: str, number: Number, seen: SeenVersion, who: Author, state: TheState, response: Response
) -> Edited:
    """Make the draft what a revision was; one edit, which undo takes back."""
    before = state.store.draft(design_id)
    patch = difference(before.tree, state.history.document(design_id, number))
    if not patch:
        raise InputRefused([Problem("", f"the draft is what revision {number} was already")])
    edited = edit_draft(state, before, seen, patch, who, response)
    state.history.note(who, "restored", design_id, f"revision {number}", state.clock())
    return edited


@router.post("/branches", status_code=201, dependencies=[may("edit")])
def branch(design_id: str, wanted: NewBranch, person: ThePerson, state: TheState) -> Summary:
    """Begin a what-if: a draft of its own, which can be compared, folded back or dropped."""
    if wanted.revision is not None:
        tree, start = state.history.document(design_id, wanted.revision), f"revision {wanted.revision}"
    else:
        draft = state.store.draft(design_id)
        tree, start = draft.tree, f"draft {draft.version}"
    new = state.store.create(uuid4().hex, tree, state.clock(), Branch(design_id, wanted.title.strip(), start))
    state.history.note(by_whom(person), "began a what-if", design_id, f"{wanted.title}, of {start}", state.clock())
    return next(s for s in state.store.designs() if s.id == new.id)


def _parent(design_id: str, person: Person, state: State) -> tuple[Branch, Tree, Draft]:
    known, base = state.store.branch(design_id)
    check(state, person, known.of, "edit")
    return known, base, state.store.draft(known.of)


@router.get("/fold")
def folding(design_id: str, person: ThePerson, state: TheState, wins: Literal["mine", "theirs"] = "mine") -> Folding:
    """Say what folding a what-if back would do; `wins`: who has the last word where both changed one thing."""
    known, base, parent = _parent(design_id, person, state)
    met = meet(base, state.store.draft(design_id).tree, parent.tree)
    preview = preview_of(state, parent, met.on_top if wins == "mine" else met.beside)
    return Folding(known.of, parent.version, list(met.clashes), preview)


@router.post("/fold", dependencies=[may("edit")])
def fold(
    design_id: str,
    seen: SeenVersion,
    person: ThePerson,
    state: TheState,
    response: Response,
    wins: Literal["mine", "theirs"] = "mine",
) -> Edited:
    """Fold a what-if back into the draft it was branched off, as one edit, and drop it. If-Match is of that draft."""
    known, base, parent = _parent(design_id, person, state)
    met = meet(base, state.store.draft(design_id).tree, parent.tree)
    patch = met.on_top if wins == "mine" else met.beside
    if not patch and wins == "mine":
        raise InputRefused([Problem("", "this what-if changes nothing that the draft does not have already; drop it")])
    edited = edit_draft(state, parent, seen, patch, by_whom(person), response)
    state.history.note(by_whom(person), "folded a what-if back", known.of, known.title, state.clock())
    state.store.drop(design_id)
    return edited


@router.delete("/branch", status_code=204, dependencies=[may("edit")])
def drop(design_id: str, person: ThePerson, state: TheState) -> None:
    """Drop a what-if."""
    known, _ = state.store.branch(design_id)
    state.store.drop(design_id)
    state.history.note(by_whom(person), "dropped a what-if", known.of, known.title, state.clock())


def _state_of(state: State, design_id: str, person: Person, words: str) -> tuple[Tree, Climb]:
    """Return a state by its words: `draft`, `revision 3`, `design` and its identifier."""
    kind, _, which = words.partition(" ")
    if words == "draft":
        draft = state.store.draft(design_id)
    elif kind == "design" and which:
        check(state, person, which, "read")
        other = state.store.draft(which)
        if state.family(which) == state.family(design_id):
            return other.tree, state.climb(other)
        return other.tree, Climb(other.design)  # what is kept of it belongs to whoever's turn it is there
    elif kind == "revision" and which.isascii() and which.isdigit() and len(which) < 10:
        tree = state.history.document(design_id, int(which))
        draft = Draft(f"{design_id} {words}", int(which), tree, stamp_of(tree), parse_design(tree), False, False, None)
    else:
        raise InputRefused([Problem("", "this is no state", repr(words), "draft, revision 3, design ID")])
    return draft.tree, state.climb(draft, of=design_id)


_Words = Annotated[str, Query(max_length=60, description="`draft`, `revision 3`, or `design ID`.")]


@router.get("/compare")
def compare(
    design_id: str, person: ThePerson, state: TheState, one: _Words = "revision 1", two: _Words = "draft"
) -> Comparison:
    """Compare two states, as configuration and as reach."""
    return compare_states(*(_state_of(state, design_id, person, w) for w in (one, two)))


@router.get("/compare.md", response_class=PlainTextResponse, responses={200: {"content": {"text/markdown": {}}}})
def compare_for_a_ticket(
    design_id: str, person: ThePerson, state: TheState, one: _Words = "revision 1", two: _Words = "draft"
) -> PlainTextResponse:
    """Return a comparison of two states as Markdown (RFC 7763)."""
    text = compare_states(*(_state_of(state, design_id, person, w) for w in (one, two))).as_markdown(one, two)
    return PlainTextResponse(text, media_type="text/markdown; charset=utf-8")


@router.post("/compare-file", openapi_extra=FILE_BODY)
def compare_file(
    design_id: str, text: TheFile, person: ThePerson, state: TheState, one: _Words = "draft"
) -> Comparison:
    """Compare a state with a design file."""
    with state.reading:
        tree = parse_text(text)
    before = _state_of(state, design_id, person, one)
    return compare_states(before, (tree, before[1].edited(parse_design(tree))))


@router.get("/siblings")
def compare_siblings(design_id: str, one: str, two: str, state: TheState) -> Siblings:
    """Compare two things of one kind inside the draft, by their pointers."""
    return siblings(state.store.draft(design_id).tree, one, two)


@router.get("/log", dependencies=[may("administer")])
def log(design_id: str, state: TheState, before: Annotated[int | None, Query(ge=0, le=2**62)] = None) -> list[Deed]:
    """Tell what was done with a design, the newest first."""
    return [replace(d, design_id=None) for d in state.history.log(design_id, before)]


@whole.get("/log", dependencies=[Depends(owner_only)])
def log_of_all(state: TheState, before: Annotated[int | None, Query(ge=0, le=2**62)] = None) -> list[Deed]:
    """Tell what was done at all, the newest first. Owners only."""
    return state.history.log(None, before)
