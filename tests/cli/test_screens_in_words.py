"""What the screens show, without a browser: own addresses, both ends, siblings, drills, what if."""

from __future__ import annotations

import json
from typing import Any

import pytest
from typer.testing import CliRunner

from anabasis.cli import app
from tests.conftest import DEMO


def ran(*words: str) -> tuple[int, str]:
    """Return status and output of a command on the demo."""
    done = CliRunner().invoke(app, [words[0], str(DEMO), *words[1:]])
    return done.exit_code, done.stdout


def told(*words: str) -> Any:
    """Return the JSON a command prints."""
    return json.loads(ran(*words, "--json")[1])


def test_what_the_boxes_answer() -> None:
    """Apart from the matrix."""
    rows = told("reach", "--boxes")
    found = {(r["from"], r["interface"]): r["flows"][0]["services"] for r in rows}
    assert "ssh" in found["keepers", "hall.130"]
    assert "ssh" not in found["visitors", "hall.160"]


def test_tables_fold_where_nobody_stands() -> None:
    """JSON stays whole."""
    _, text = ran("reach")
    assert "lab-link" not in text.split("Folded")[0]
    assert "lab-link" in text.split("Folded")[1]
    assert "lab-link" in told("reach")["segments"]


def test_both_ends_and_siblings() -> None:
    """Side by side, and only what differs."""
    assert all(len(row["ends"]) == 2 for row in told("ends"))
    found = told("siblings", "/devices/5/ports/0", "/devices/5/ports/1")
    assert {u["what"] for u in found["unlike"]} == {"name", "note"}


def test_as_if_something_had_failed() -> None:
    """A walk, a laptop, the matrix, and who was active before."""
    status, text = ran("walk", "--from", "desk-7", "--to", "pump-ctl", "--service", "https", "--fail", "gate")
    assert status == 1
    assert "has failed" in text
    assert told("plug", "hall-sw:2", "--fail", "gate-a")["address"] == "10.64.130.50"
    assert told("failover", "--fail", "gate-a:7", "--active", "gate-b")["active"] == ["gate-b"]
    assert any(p["layer"] == "link" for p in told("reach", "--fail", "lab-sw")["pairs"])


@pytest.mark.parametrize("words", [("failover", "--drill", "gate")])
def test_a_drill(words: tuple[str, ...]) -> None:
    """Its steps, in order."""
    sheet = told(*words)
    assert sheet["pair"] == "gate"
    assert sheet["steps"][0]["do"].startswith("Pull the plug of gate-a")
