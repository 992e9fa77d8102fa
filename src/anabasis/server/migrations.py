"""Migrations over HTTP: what one asks for, and what it would do."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Body

from anabasis.building import build_sheet
from anabasis.design import apply
from anabasis.design.edits import difference
from anabasis.design.migrating import Asked, asked, migrate, read_plan
from anabasis.server.access import may
from anabasis.server.drafts import Preview, preview_of
from anabasis.server.sheets import BuildView, build_view
from anabasis.server.state import TheState
from anabasis.server.turns import InTurn
from anabasis.wording import noted

router = APIRouter(prefix="/designs/{design_id}", tags=["migrations"], dependencies=[may("read")], route_class=InTurn)


@dataclass(frozen=True)
class MigrationView:
    """What a migration would do, and the steps between."""

    preview: Preview
    assumed: list[str]
    open: list[str]
    build: BuildView


@router.post("/draft/migrate")
def migration(
    design_id: str, plan: Annotated[dict[str, Any] | list[dict[str, Any]], Body()], state: TheState
) -> MigrationView:
    """Work out a migration of the draft: the edit with its consequences, what was assumed, what is left to decide, and the steps. Send the patch to make it."""
    draft = state.store.draft(design_id)
    found = migrate(draft.tree, read_plan(plan))
    after = apply(draft.tree, found.patch, draft.design)[0]
    view = build_view("the draft", build_sheet(draft.tree, after))
    assumed, open_ = ([noted(n) for n in some] for some in (found.assumed, found.open))
    return MigrationView(preview_of(state, draft, difference(draft.tree, after)), assumed, open_, view)


@router.post("/draft/migrate/asked")
def asked_of_migration(design_id: str, said: Annotated[dict[str, Any], Body()], state: TheState) -> list[Asked]:
    """List what a migration asks for: `kind`, and what is said so far; each with the choices there are, and a value where one can be proposed."""
    return asked(state.store.draft(design_id).tree, str(said.get("kind", "")), said)
