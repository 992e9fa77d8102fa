"""Documents of earlier days are read as they were meant."""

from __future__ import annotations

from typing import Any

from anabasis.design import apply
from anabasis.design.devices import Firewall, Switch
from anabasis.failover import unlike_traits
from tests.sites import design_of

OLD: dict[str, Any] = {
    "name": "gate",
    "kind": "firewall",
    "answers_across": False,
    "autostate": False,
    "units": [
        {"name": "a", "model": "M2", "software": "8.1", "licence": "full", "storage_gb": 240},
        {"name": "b", "model": "M2", "software": "8.2", "traits": {"rack": "north"}},
    ],
}


def test_older_words_mean_what_they_meant() -> None:
    """`autostate`, the four traits by their own keys, and a yes or no for `answers_across`."""
    gate = design_of(devices=[OLD]).devices[0]
    assert isinstance(gate, Firewall)
    assert (gate.follows_ports, gate.answers_across) == (False, "never")
    assert gate.units[0].traits == {"model": "M2", "software": "8.1", "licence": "full", "storage_gb": 240}
    assert gate.units[1].traits == {"model": "M2", "software": "8.2", "rack": "north"}
    assert unlike_traits(gate) == ["software"]


def test_an_edit_of_an_older_document_leaves_its_words() -> None:
    """What is stored is what was written; only what is edited changes."""
    tree = {"anabasis": 1, "name": "Old", "devices": [OLD]}
    after, design = apply(tree, [{"op": "replace", "path": "/devices/0/units/1/software", "value": "8.1"}])
    assert after["devices"][0]["autostate"] is False
    assert unlike_traits(design.devices[0]) == []  # type: ignore[arg-type]


def test_what_is_left_out_is_the_stated_default() -> None:
    """A VLAN interface follows its ports; static routes have preference 10; across own interfaces rules are asked."""
    box = design_of(devices=[{"name": "s", "kind": "switch"}, {"name": "f", "kind": "firewall"}])
    switch, fence = box.devices
    assert isinstance(switch, Switch)
    assert isinstance(fence, Firewall)
    assert (switch.follows_ports, switch.preferences.static, fence.answers_across) == (True, 10, "rules")
