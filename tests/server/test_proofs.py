"""Proofs by packets over HTTP."""

from __future__ import annotations

import json
import time
from datetime import UTC, datetime

import pytest

from anabasis.errors import InputRefused
from anabasis.packets import check_allowed
from anabasis.server import proving
from anabasis.store import Store
from tests.conftest import client_of
from tests.proof.test_proof import kernel
from tests.server.test_making import edit
from tests.sound import sound_site

SMALL = json.loads(json.dumps(sound_site(3)))


def test_a_machine_without_namespaces_says_so(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    """Refused with what is missing; nothing is begun."""

    def refuses() -> None:
        raise InputRefused([])

    monkeypatch.setattr(proving, "check_allowed", refuses)
    store.create("small", SMALL, datetime.now(UTC))
    client = client_of(store)
    assert client.post("/api/designs/small/draft/proof", json={}).status_code == 422
    assert client.get("/api/designs/small/draft/proof").json()["state"] == "none"


@kernel
@pytest.mark.slow
def test_a_draft_is_proved(store: Store) -> None:
    """Begun, looked at, ended; one at a time; stale after an edit; a segment that is none leaves nothing to send."""
    check_allowed()
    store.create("small", SMALL, datetime.now(UTC))
    client = client_of(store)
    begun = client.post("/api/designs/small/draft/proof", json={})
    assert (begun.status_code, begun.json()["state"]) == (202, "running")
    assert client.post("/api/designs/small/draft/proof", json={}).status_code == 422
    for _ in range(1200):
        found = client.get("/api/designs/small/draft/proof").json()
        if found["state"] != "running":
            break
        time.sleep(0.1)
    assert found["state"] == "ended", found["why"]
    assert found["version"] == 1
    assert found["proof"]["probes"] == len(found["proof"]["results"]) > 10
    assert found["proof"]["differ"] == []
    assert {"from", "to", "service", "computed", "seen"} <= found["proof"]["results"][0].keys()
    edit(client, "small", "preview", [{"op": "replace", "path": "/name", "value": "Other"}])
    assert client.get("/api/designs/small/draft/proof").json()["stale"]
