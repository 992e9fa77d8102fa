"""Designs: list, bring in, take out, remove."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import uuid4

from fastapi import APIRouter, Depends, Query, Request
from starlette.responses import Response

from anabasis.design import dump_json, dump_yaml, parse_text
from anabasis.errors import InputRefused, Problem
from anabasis.server.state import TheState, etag
from anabasis.store import Summary

router = APIRouter(tags=["designs"])


@router.get("/designs")
def list_designs(state: TheState) -> list[Summary]:
    """List all designs, the oldest first."""
    return state.store.designs()


_FILE = {"schema": {"type": "string", "description": "A design file, YAML or JSON."}}


async def _file(request: Request) -> str:
    """Return the body as text, whatever it says it is: YAML reads JSON as well."""
    try:
        return (await request.body()).decode()
    except UnicodeDecodeError as error:
        raise InputRefused([Problem("", "a design file is written in UTF-8", f"byte {error.start}")]) from None


@router.post(
    "/designs",
    status_code=201,
    openapi_extra={
        "requestBody": {"content": {"application/yaml": _FILE, "application/json": _FILE}, "required": True}
    },
)
def bring_in(text: Annotated[str, Depends(_file)], state: TheState) -> Summary:
    """Store a design from a file."""
    draft = state.store.create(uuid4().hex, parse_text(text), state.clock())
    return next(s for s in state.store.designs() if s.id == draft.id)


@router.delete("/designs/{design_id}", status_code=204)
def remove(design_id: str, state: TheState) -> None:
    """Remove a design with all its edits."""
    state.store.remove(design_id)
    state.forget(design_id)


@router.get("/designs/{design_id}/file", response_class=Response)
def take_out(design_id: str, state: TheState, form: Annotated[Literal["yaml", "json"], Query()] = "yaml") -> Response:
    """Return the draft as a design file."""
    draft = state.store.draft(design_id)
    text = dump_yaml(draft.tree) if form == "yaml" else dump_json(draft.tree)
    name = "-".join(draft.design.name.lower().split())
    headers = etag(draft.version) | {"Content-Disposition": f'attachment; filename="{name}.{form}"'}
    return Response(text, media_type=f"application/{form}; charset=utf-8", headers=headers)
