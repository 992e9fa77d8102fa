"""Tables over HTTP: read with a look before, made as an edit, written as CSV."""

from __future__ import annotations

from anabasis.store import Store
from tests.conftest import client_of
from tests.server.test_making import begun, edit

PORTS = "Switch,Port,Access VLAN,Note\nquay-sw,1,10,till\nquay-sw,2,abc,bad\n"


def test_a_table_is_looked_at_and_made(store: Store) -> None:
    """What fits best is what it is read as; the row without a place is told with its line; the patch is one edit."""
    client = client_of(store, "Finn", owner=False)
    design = begun(client, name="Boat house")
    preview = client.post(f"/api/designs/{design}/draft/read-table", json={"text": PORTS}).json()
    assert (preview["kind"], preview["placed"]) == ("ports", 1)
    assert [(r["line"], r["text"]) for r in preview["lost"]] == [(3, "quay-sw\t2\tabc\tbad")]
    assert "quay-sw is not in the design: it is made as a switch" in preview["assumed"]
    assert preview["columns"] == ["device", "port", "access", "note"]
    edit(client, design, "preview", preview["preview"]["patch"])
    written = client.get(f"/api/designs/{design}/draft/tables/ports.csv")
    assert written.headers["content-type"].startswith("text/csv")
    assert written.text == "device,port,mode,pvid,untagged,tagged,note,enabled\r\nquay-sw,1,,10,10,,till,\r\n"
    again = client.post(f"/api/designs/{design}/draft/read-table", json={"text": written.text, "kind": "ports"}).json()
    assert (again["preview"]["patch"], again["lost"], again["kept"]) == ([], [], 0)


def test_what_is_no_table(store: Store) -> None:
    """One clear error each: no such kind, nothing in it; the kinds are told with their columns."""
    client = client_of(store, "Finn", owner=False)
    design = begun(client, name="Boat house")
    wrong = client.post(f"/api/designs/{design}/draft/read-table", json={"text": "a\n1\n", "kind": "port"})
    assert (wrong.status_code, "ports" in wrong.json()["detail"]) == (422, True)
    assert client.post(f"/api/designs/{design}/draft/read-table", json={"text": ""}).status_code == 422
    assert client.get(f"/api/designs/{design}/draft/tables/boats.csv").status_code == 422
    kinds = client.get(f"/api/designs/{design}/draft/tables").json()
    assert kinds["vlans"] == ["id", "name", "subnets", "purpose", "note"]
