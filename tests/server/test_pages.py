"""The documentation, as pages of the application."""

from __future__ import annotations

import pytest

from anabasis.store import Store
from tests.conftest import ROOT, client_of


@pytest.mark.parametrize("name", sorted(f.stem for f in (ROOT / "docs").glob("*.md")))
def test_every_page_is_served(store: Store, name: str) -> None:
    """Rendered, with its title, and with no script in it."""
    answer = client_of(store).get(f"/docs/{name}")
    assert answer.status_code == 200
    assert answer.text.count("<h1>") == 1
    assert "<script" not in answer.text


@pytest.mark.parametrize("name", ["nothing", "../README", "..%2FREADME.md", "design.schema.json"])
def test_nothing_else_is(store: Store, name: str) -> None:
    """Only what lies in the folder, by its own name."""
    assert client_of(store).get(f"/docs/{name}").status_code == 404
