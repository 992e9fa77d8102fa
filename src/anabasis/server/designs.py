"""Designs: list, bring in, take out, remove."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal
from uuid import uuid4

from fastapi import APIRouter, Body, Depends, Query, Request
from starlette.responses import Response

from anabasis.design import Tree, dump_json, dump_yaml, parse_text
from anabasis.design.renaming import check_name
from anabasis.errors import InputRefused, Problem, nearest
from anabasis.server.access import ThePerson, by_whom, check, may, may_begin
from anabasis.server.state import State, TheState, etag
from anabasis.store import ROLES, Person, Summary

router = APIRouter(tags=["designs"])


@dataclass(frozen=True)
class Listed(Summary):
    """A design in a list, and what the person who asks may do with it."""

    role: str = "read"


@router.get("/designs")
def list_designs(state: TheState, person: ThePerson) -> list[Listed]:
    """List the designs one may read, the oldest first."""
    if person.owner:
        return [Listed(**vars(s), role=ROLES[-1]) for s in state.store.designs()]
    roles = state.people.roles_of(person)
    return [Listed(**vars(s), role=roles[s.id]) for s in state.store.designs() if s.id in roles]


_FILE = {"schema": {"type": "string", "description": "A design file, YAML or JSON."}}


async def _file(request: Request) -> str:
    """Return the body as text, whatever it says it is: YAML reads JSON as well."""
    try:
        return (await request.body()).decode()
    except UnicodeDecodeError as error:
        raise InputRefused([Problem("", "a design file is written in UTF-8", f"byte {error.start}")]) from None


TheFile = Annotated[str, Depends(_file)]
FILE_BODY = {"requestBody": {"content": {"application/yaml": _FILE, "application/json": _FILE}, "required": True}}


@router.post("/designs", status_code=201, openapi_extra=FILE_BODY, dependencies=[Depends(may_begin)])
def bring_in(text: TheFile, state: TheState, person: ThePerson) -> Summary:
    """Store a design from a file; who brings it may administer it."""
    with state.reading:
        tree = parse_text(text)
    return _kept(state, person, tree, "brought in")


@router.delete("/designs/{design_id}", status_code=204, dependencies=[may("administer")])
def remove(design_id: str, state: TheState, person: ThePerson) -> None:
    """Remove a design with its what-ifs; it can be brought back for thirty days."""
    name = state.store.draft(design_id).design.name
    state.store.remove(design_id, state.clock())
    state.history.note(by_whom(person), "removed", design_id, name, state.clock())
    state.forget(design_id)


@router.get("/removed-designs")
def list_removed(state: TheState, person: ThePerson) -> list[Summary]:
    """List the designs that one may bring back."""
    roles = state.people.roles_of(person)
    mine = (s for s in state.store.designs(removed=True) if s.branch_of is None)
    return [s for s in mine if person.owner or roles.get(s.id) == ROLES[-1]]


@router.post("/removed-designs/{design_id}/bring-back", status_code=204, dependencies=[may("administer")])
def bring_back(design_id: str, state: TheState, person: ThePerson) -> None:
    """Bring back a design that was removed."""
    state.store.bring_back(design_id)
    name = state.store.draft(design_id).design.name
    state.history.note(by_whom(person), "brought back", design_id, name, state.clock())


@dataclass(frozen=True)
class Start:
    """A starting point that ships with the program."""

    id: str
    name: str
    note: str


@dataclass(frozen=True)
class NewDesign:
    """What a new design is made of."""

    name: str
    start: str | None = None
    """A starting point; left out = empty."""
    copy_of: str | None = None
    """Another design, of which one may read the draft."""


@router.get("/starts")
def list_starts(state: TheState, person: ThePerson) -> list[Start]:
    """List the starting points."""
    return [Start(k, str(t["name"]), str(t.get("note", ""))) for k, t in state.starts.items()]


@router.post("/designs/new", status_code=201, dependencies=[Depends(may_begin)])
def begin(wanted: Annotated[NewDesign, Body()], state: TheState, person: ThePerson) -> Summary:
    """Begin a design: empty, from a starting point, or as a copy; who begins it may administer it."""
    check_name(wanted.name)
    tree: Tree = {"anabasis": 1, "name": wanted.name}
    if wanted.copy_of is not None:
        check(state, person, wanted.copy_of, "read")
        tree = {**state.store.draft(wanted.copy_of).tree, "name": wanted.name}
    elif wanted.start is not None:
        if wanted.start not in state.starts:
            known = list(state.starts)
            said = "there is no starting point of this name"
            raise InputRefused(
                [Problem("/start", said, repr(wanted.start), ", ".join(known), nearest(wanted.start, known))]
            )
        tree = {**state.starts[wanted.start], "name": wanted.name}
    return _kept(state, person, tree, "began")


def _kept(state: State, person: Person, tree: Tree, what: str) -> Summary:
    draft = state.store.create(uuid4().hex, tree, state.clock())
    state.people.set_role(draft.id, person.name, "administer", person.name, state.clock())
    state.history.note(by_whom(person), what, draft.id, draft.design.name, state.clock())
    return next(s for s in state.store.designs() if s.id == draft.id)


Form = Annotated[Literal["yaml", "json"], Query()]


def as_file(tree: Tree, form: str, mark: str = "") -> Response:
    """Return a document as a design file to keep, named after the design."""
    text = dump_yaml(tree) if form == "yaml" else dump_json(tree)
    name = "-".join(str(tree["name"]).lower().split()).encode("ascii", "ignore").decode() or "design"
    headers = {"Content-Disposition": f'attachment; filename="{name}{mark}.{form}"'}
    return Response(text, media_type=f"application/{form}; charset=utf-8", headers=headers)


@router.get("/designs/{design_id}/file", response_class=Response, dependencies=[may("read")])
def take_out(design_id: str, state: TheState, form: Form = "yaml") -> Response:
    """Return the draft as a design file."""
    draft = state.store.draft(design_id)
    answer = as_file(draft.tree, form)
    answer.headers.update(etag(draft.version))
    return answer
