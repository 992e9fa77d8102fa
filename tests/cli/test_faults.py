"""`anabasis faults`: every fault of the demo, each an edit that can be made or is refused in words."""

from __future__ import annotations

import json
from contextlib import suppress

import pytest
from typer.testing import CliRunner

from anabasis.cli import app
from anabasis.design import apply, load_file
from anabasis.errors import InputRefused
from anabasis.faults import KINDS
from tests.conftest import DEMO


def test_every_fault_of_the_demo_can_be_made() -> None:
    """The promised keys; pointers lead into the document; the kinds are those of the catalogue."""
    ran = CliRunner().invoke(app, ["faults", str(DEMO), "--json"])
    found = json.loads(ran.stdout)
    assert ran.exit_code == 0
    assert {f["kind"] for f in found} <= set(KINDS)
    assert len({f["kind"] for f in found}) >= 45
    raw = load_file(DEMO).raw
    made = 0
    for fault in found:
        assert set(fault) == {"kind", "pointers", "edit"}
        assert all(p.startswith("/") for p in fault["pointers"])
        with suppress(InputRefused):
            apply(raw, fault["edit"])
            made += 1
    assert made >= 0.9 * len(found)


@pytest.mark.parametrize("kind", ["zone-kind", "tag-missing"])
def test_one_kind(kind: str) -> None:
    """As a table for people."""
    ran = CliRunner().invoke(app, ["faults", str(DEMO), "--kind", kind])
    assert ran.exit_code == 0
    assert kind in ran.stdout
