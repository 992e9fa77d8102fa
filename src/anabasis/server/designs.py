"""Designs: list, bring in, take out, remove."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal
from uuid import uuid4

from fastapi import APIRouter, Depends, Query, Request
from starlette.responses import Response

from anabasis.design import Tree, dump_json, dump_yaml, parse_text
from anabasis.errors import InputRefused, Problem
from anabasis.server.access import ThePerson, may
from anabasis.server.state import TheState, etag
from anabasis.store import ROLES, Summary

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


@router.post("/designs", status_code=201, openapi_extra=FILE_BODY)
def bring_in(text: TheFile, state: TheState, person: ThePerson) -> Summary:
    """Store a design from a file; who brings it may administer it."""
    draft = state.store.create(uuid4().hex, parse_text(text), state.clock())
    state.people.set_role(draft.id, person.name, "administer", person.name, state.clock())
    state.history.note(person.name, "brought in", draft.id, draft.design.name, state.clock())
    return next(s for s in state.store.designs() if s.id == draft.id)


@router.delete("/designs/{design_id}", status_code=204, dependencies=[may("administer")])
def remove(design_id: str, state: TheState, person: ThePerson) -> None:
    """Remove a design with all its edits and revisions."""
    name = state.store.draft(design_id).design.name
    state.store.remove(design_id)
    state.history.note(person.name, "removed", design_id, name, state.clock())
    state.forget(design_id)


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
