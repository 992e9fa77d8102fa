"""Plain tables in and out: read into the draft as a preview, written as CSV."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Body, Response
from fastapi.responses import HTMLResponse, PlainTextResponse

from anabasis.interchange import TABLES, TOPOLOGY, YANG, cabling_svg, read, site_book, write, write_computed
from anabasis.server.access import may
from anabasis.server.drafts import Preview, preview_of
from anabasis.server.guard import PICTURE_POLICY
from anabasis.server.state import TheState
from anabasis.server.turns import InTurn
from anabasis.views import cabling
from anabasis.wording import taken_for_granted

router = APIRouter(prefix="/designs/{design_id}/draft", tags=["tables"], dependencies=[may("read")], route_class=InTurn)

Computed = Literal["segments", "standing", "routing", "decisions", "judgements", "drills", "findings"]


@dataclass(frozen=True)
class ReadTable:
    """A table as text: cells between tabs, commas or semicolons, with or without a line of headings."""

    text: str
    kind: str = ""
    """Empty = the kind that the headings fit best."""
    replace: bool = False
    """Whether what no row speaks of goes, in the lists that rows are about."""


@dataclass(frozen=True)
class LostRow:
    """A row that has no place."""

    line: int
    text: str
    reason: str


@dataclass(frozen=True)
class TableReading:
    """What reading a table would do."""

    kind: str
    placed: int
    lost: list[LostRow]
    assumed: list[str]
    headings: list[str]
    """As given; empty where there are none."""
    columns: list[str | None]
    """By column of the table what it is read as; None = nothing."""
    kept: int
    """Things of the kind that no row speaks of; they stay."""
    preview: Preview


@router.post("/read-table")
def preview_table(design_id: str, wanted: Annotated[ReadTable, Body()], state: TheState) -> TableReading:
    """Work out the edit that a table makes, what it could not place and what it takes for granted; send the patch to make it."""
    draft = state.store.draft(design_id)
    found = read(wanted.kind, wanted.text, draft.tree, wanted.replace)
    lost = [LostRow(u.line, u.text, u.problem.sentence()) for u in found.unplaced]
    assumed = [taken_for_granted(a) for a in found.assumed]
    preview = preview_of(state, draft, found.patch)
    return TableReading(
        found.kind, found.placed, lost, assumed, list(found.headings), list(found.columns), found.kept, preview
    )


@router.get(
    "/topology.json", response_class=PlainTextResponse, responses={200: {"content": {"application/yang-data+json": {}}}}
)
def topology(design_id: str, state: TheState) -> PlainTextResponse:
    """Return the boxes, ports and cables of the draft as a network topology (RFC 8345, RFC 7951)."""
    said = 'attachment; filename="topology.json"'
    text = write(TOPOLOGY, state.store.draft(design_id).tree)
    return PlainTextResponse(text, media_type="application/yang-data+json", headers={"Content-Disposition": said})


@router.get(
    "/yang.json", response_class=PlainTextResponse, responses={200: {"content": {"application/yang-data+json": {}}}}
)
def yang(design_id: str, state: TheState, device: str = "") -> PlainTextResponse:
    """Return the draft, or one box of it, as an instance data set of YANG modules (RFC 9195, RFC 7951)."""
    text = write(YANG, state.store.draft(design_id).tree, device)
    name = f"{device or 'site'}.json".replace('"', "").encode("ascii", "replace").decode()
    said = {"Content-Disposition": f'attachment; filename="{name}"'}
    return PlainTextResponse(text, media_type="application/yang-data+json", headers=said)


@router.get("/book.html", response_class=HTMLResponse)
def book(design_id: str, state: TheState) -> HTMLResponse:
    """Return the site book of the draft: one HTML file that prints to A4 and Letter."""
    draft = state.store.draft(design_id)
    text = site_book(state.climb(draft), draft.tree, f"draft {draft.version}", state.clock())
    said = {"Content-Disposition": 'inline; filename="site-book.html"', "Content-Security-Policy": PICTURE_POLICY}
    return HTMLResponse(text, headers=said)


@router.get("/cabling.svg", response_class=Response, responses={200: {"content": {"image/svg+xml": {}}}})
def drawing(design_id: str, state: TheState) -> Response:
    """Return the drawing of the cabling (SVG 1.1)."""
    text = cabling_svg(cabling(state.climb(state.store.draft(design_id)).site.fabric))
    said = {"Content-Disposition": 'attachment; filename="cabling.svg"', "Content-Security-Policy": PICTURE_POLICY}
    return Response(text, media_type="image/svg+xml", headers=said)


@router.get("/computed/{kind}.csv", response_class=PlainTextResponse, responses={200: {"content": {"text/csv": {}}}})
def computed(design_id: str, kind: Computed, state: TheState) -> PlainTextResponse:
    """Return what is computed of the draft, as a table (RFC 4180)."""
    text = write_computed(kind, state.climb(state.store.draft(design_id)))
    said = f'attachment; filename="{kind}.csv"'
    return PlainTextResponse(text, media_type="text/csv", headers={"Content-Disposition": said})


@router.get("/tables")
def tables() -> dict[str, list[str]]:
    """Return the kinds of tables with their columns."""
    return {name: list(table.columns) for name, table in TABLES.items()}


@router.get("/tables/{kind}.csv", response_class=PlainTextResponse, responses={200: {"content": {"text/csv": {}}}})
def table(design_id: str, kind: str, state: TheState) -> PlainTextResponse:
    """Return one table of the draft (RFC 4180)."""
    text = write(kind, state.store.draft(design_id).tree)
    said = f'attachment; filename="{kind}.csv"'
    return PlainTextResponse(text, media_type="text/csv", headers={"Content-Disposition": said})
