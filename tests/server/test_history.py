"""Publishing, restoring, what-ifs, comparisons, and two people at once, over HTTP."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from anabasis.design import Loaded, dump_yaml
from anabasis.store import Store
from tests.conftest import NOON, client_of

PATCH_TYPE = {"Content-Type": "application/json-patch+json"}
NOTE = [{"op": "replace", "path": "/note", "value": "another"}]
RULE = "/devices/4/rules/3"


@pytest.fixture
def client(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an owner; the demo is design `d`."""
    store.create("d", demo.raw, NOON)
    return client_of(store)


def at(version: int) -> dict[str, str]:
    """Return the header that names the version seen."""
    return {"If-Match": f'"{version}"'}


def edit(client: TestClient, patch: Any, version: int, design: str = "d") -> Any:
    """Send an edit."""
    return client.patch(f"/api/designs/{design}/draft", json=patch, headers=PATCH_TYPE | at(version))


def publish(client: TestClient, version: int, **body: Any) -> Any:
    """Publish the draft."""
    return client.post("/api/designs/d/revisions", json={"reason": "as built"} | body, headers=at(version))


def drives_pumps(demo: Loaded) -> str:
    """Return the pointer of the rule that lets keepers drive pumps."""
    names = [r["name"] for r in demo.raw["devices"][4]["rules"]]
    return f"/devices/4/rules/{names.index('keepers-drive-pumps')}"


def test_publishing_and_going_back(client: TestClient, demo: Loaded) -> None:
    """Numbers count up, documents stay as they were, a restored one is one edit that undo takes back."""
    assert publish(client, 1).json()["number"] == 1
    edit(client, NOTE, 1)
    assert publish(client, 1).status_code == 412
    assert publish(client, 2, reason="  ").status_code == 422
    second = publish(client, 2, reason="another note").json()
    assert (second["number"], second["version"], second["author"], second["forced"]) == (2, 2, "Oda", None)
    assert client.get("/api/designs/d/revisions/1/file").text == dump_yaml(demo.raw)
    assert [r["number"] for r in client.get("/api/designs/d/revisions").json()] == [2, 1]
    assert client.get("/api/designs").json()[0]["published"] == 2
    back = client.post("/api/designs/d/revisions/1/restore", headers=at(2)).json()
    assert back["version"] == 3
    assert client.get("/api/designs/d/draft").json()["document"] == demo.raw
    assert client.post("/api/designs/d/draft/undo", headers=at(3)).status_code == 200
    assert client.get("/api/designs/d/draft").json()["document"]["note"] == "another"
    assert client.post("/api/designs/d/revisions/9/restore", headers=at(4)).status_code == 404
    already = client.post("/api/designs/d/revisions/2/restore", headers=at(4))
    assert (already.status_code, "already" in already.json()["detail"]) == (422, True)


def test_publishing_while_expectations_fail(client: TestClient, demo: Loaded) -> None:
    """Refused with their names; with a reason it is done, and both stand in the revision."""
    edit(client, [{"op": "remove", "path": drives_pumps(demo)}], 1)
    refused = publish(client, 2)
    assert (refused.status_code, refused.json()["failing"]) == (409, ["keepers drive pumps"])
    assert client.get("/api/designs/d/revisions").json() == []
    forced = publish(client, 2, forced="the pumps are off until Friday").json()
    assert (forced["failing"], forced["forced"]) == (["keepers drive pumps"], "the pumps are off until Friday")


def test_a_what_if_is_compared_and_folded_back(client: TestClient, demo: Loaded) -> None:
    """Its edits are its own; folded back they are one edit beside what happened meanwhile."""
    publish(client, 1)
    branch = client.post("/api/designs/d/branches", json={"title": "no pumps", "revision": 1}).json()
    assert (branch["branch_of"], branch["branched_from"]) == ("d", "revision 1")
    edit(client, [{"op": "remove", "path": drives_pumps(demo)}], 1, branch["id"])
    edit(client, NOTE, 1)
    words = {"one": "draft", "two": f"design {branch['id']}"}
    found = client.get("/api/designs/d/compare", params=words).json()
    assert {(d["sign"], d["kind"]) for d in found["differences"]} == {("removed", "Rule"), ("changed", "Design")}
    assert found["consequences"]["broken"] == ["keepers drive pumps"]
    folding = client.get(f"/api/designs/{branch['id']}/fold").json()
    assert (folding["into"], folding["clashes"], folding["version"]) == ("d", [], 2)
    assert client.post(f"/api/designs/{branch['id']}/fold", headers=at(1)).status_code == 412
    done = client.post(f"/api/designs/{branch['id']}/fold", headers=at(2)).json()
    assert done["consequences"]["broken"] == ["keepers drive pumps"]
    draft = client.get("/api/designs/d/draft").json()["document"]
    assert draft["note"] == "another"
    assert len(draft["devices"][4]["rules"]) == len(demo.raw["devices"][4]["rules"]) - 1
    assert client.get(f"/api/designs/{branch['id']}/draft").status_code == 404


def test_a_what_if_that_clashes(client: TestClient) -> None:
    """Both versions are shown; who has the last word is chosen; dropped, it is gone."""
    branch = client.post("/api/designs/d/branches", json={"title": "drop it"}).json()
    edit(client, [{"op": "replace", "path": f"{RULE}/name", "value": "mine"}], 1, branch["id"])
    edit(client, [{"op": "replace", "path": f"{RULE}/name", "value": "theirs"}], 1)
    (clash,) = client.get(f"/api/designs/{branch['id']}/fold").json()["clashes"]
    assert (clash["what"], clash["mine"], clash["theirs"]) == ("name", "mine", "theirs")
    client.post(f"/api/designs/{branch['id']}/fold", params={"wins": "theirs"}, headers=at(2))
    assert client.get("/api/designs/d/draft").json()["document"]["devices"][4]["rules"][3]["name"] == "theirs"
    other = client.post("/api/designs/d/branches", json={"title": "again"}).json()
    assert client.post(f"/api/designs/{other['id']}/fold", headers=at(3)).status_code == 422, "it changes nothing"
    assert client.delete(f"/api/designs/{other['id']}/branch").status_code == 204
    assert client.delete("/api/designs/d/branch").status_code == 404, "a design is not dropped that way"
    assert [d["id"] for d in client.get("/api/designs").json()] == ["d"]


def test_comparisons(client: TestClient, demo: Loaded) -> None:
    """A state with itself differs in nothing; with a file in what the file has; a state that is none is refused."""
    publish(client, 1)
    same = client.get("/api/designs/d/compare", params={"one": "revision 1", "two": "draft"}).json()
    assert (same["differences"], same["edits"], same["come"]) == ([], [], [])
    assert same["unchanged"] > 100
    text = dump_yaml(demo.raw | {"note": "from a file"})
    found = client.post("/api/designs/d/compare-file", content=text).json()
    assert [d["kind"] for d in found["differences"]] == ["Design"]
    for words, status in (("revision 8", 404), ("design nobody", 404), ("yesterday", 422)):
        assert client.get("/api/designs/d/compare", params={"one": words, "two": "draft"}).status_code == status
    ports = {"one": "/devices/5/ports/0", "two": "/devices/5/ports/1"}
    assert client.get("/api/designs/d/siblings", params=ports).json()["kind"] == "Port"


def test_edits_that_do_not_touch_each_other(client: TestClient) -> None:
    """The later one is refused with itself written for the draft as it is now; sent again it stands beside the other."""
    edit(client, [{"op": "remove", "path": "/devices/4/rules/0"}], 1)
    late = edit(client, [{"op": "replace", "path": f"{RULE}/action", "value": "drop"}], 1)
    met = late.json()["clash"]
    assert (late.status_code, met["clashes"], met["version"]) == (412, [], 2)
    assert met["on_top"] == [{"op": "replace", "path": "/devices/4/rules/2/action", "value": "drop"}]
    assert edit(client, met["on_top"], met["version"]).status_code == 200


def test_edits_that_clash(client: TestClient) -> None:
    """Both versions are there; neither is made until somebody chooses."""
    edit(client, [{"op": "replace", "path": f"{RULE}/action", "value": "refuse"}], 1)
    met = edit(client, [{"op": "replace", "path": f"{RULE}/action", "value": "drop"}], 1).json()["clash"]
    assert [(c["mine"], c["theirs"]) for c in met["clashes"]] == [("drop", "refuse")]
    assert met["beside"] == []
    assert client.get("/api/designs/d/draft").json()["document"]["devices"][4]["rules"][3]["action"] == "refuse"
    assert edit(client, met["on_top"], met["version"]).status_code == 200
    assert client.get("/api/designs/d/draft").json()["document"]["devices"][4]["rules"][3]["action"] == "drop"


def test_cells_meant_for_an_older_draft(client: TestClient) -> None:
    """Cells are worked out on the draft that was seen, so they clash or stand beside like any edit."""
    edit(client, NOTE, 1)
    cells = [{"device": "tank-sw", "port": "across", "vlan": 130, "cell": "none"}]
    late = client.post("/api/designs/d/draft/memberships", json=cells, headers=at(1))
    assert (late.status_code, late.json()["clash"]["clashes"]) == (412, [])
