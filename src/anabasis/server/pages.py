"""The documentation as pages of the application: what is in `docs/`, rendered, behind the same door."""

from __future__ import annotations

from html import escape
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse
from markdown_it import MarkdownIt

from anabasis.errors import NoSuchThing
from anabasis.server.access import ThePerson

router = APIRouter(prefix="/docs", include_in_schema=False)

STYLE = """
body { font: 15px/1.55 'Hanken Grotesk Variable', system-ui, sans-serif; max-width: 50rem; margin: 2rem auto; padding: 0 1rem; background: #fbf8f1; color: #1d2a2b }
h1, h2, h3 { line-height: 1.2 } code, pre { font: 13px ui-monospace, monospace } pre { background: #f3eee1; padding: .75rem; overflow: auto }
table { border-collapse: collapse } td, th { border-bottom: 1px solid #e2dac6; padding: .25rem .75rem .25rem 0; text-align: left; vertical-align: top } a { color: #1f5c4a } img { max-width: 100% }
@media (prefers-color-scheme: dark) { body { background: #111b1c; color: #e9e4d6 } pre { background: #172426 } td, th { border-color: #2a3b3d } a { color: #7cc7a4 } }
"""


@router.get("/{name}", response_class=HTMLResponse)
def page(name: str, request: Request, person: ThePerson) -> HTMLResponse:
    """Return one page of the documentation. Raises NoSuchThing."""
    folder: Path | None = request.app.state.docs
    known = {f.name: f for f in folder.glob("*.md")} if folder is not None else {}
    file = known.get(name if name.endswith(".md") else f"{name}.md")
    if file is None:
        raise NoSuchThing(f"There is no page {name!r}.")
    text = file.read_text(encoding="utf-8")
    title = escape(text.partition("\n")[0].lstrip("# "))
    body = MarkdownIt("commonmark", {"html": False}).enable("table").render(text)
    return HTMLResponse(f"<!doctype html><html lang=en><meta charset=utf-8><title>{title}</title><style>{STYLE}</style><main>{body}</main></html>")  # fmt: skip
