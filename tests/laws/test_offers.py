"""Where something is missing, what is offered can be made, and making it takes the finding away or brings the next one up."""

from __future__ import annotations

import copy
from typing import Any

import jsonpointer
from hypothesis import event, given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import Tree, apply, parse_design
from anabasis.design.making import KINDS, NewThing, fresh, make
from anabasis.errors import InputRefused
from anabasis.findings import Offer, offers
from tests.counts import law
from tests.sound import sound_site

TAKEN: tuple[str, ...] = ("zone", "dhcp", "addresses", "routes", "vlan_interfaces", "subinterfaces")


def without(tree: Tree, data: st.DataObject) -> Tree:
    """Return a site with a few things of layer 3 taken out of its boxes."""
    site = copy.deepcopy(tree)
    held: list[tuple[Any, str]] = []

    def walk(node: Any) -> None:
        if isinstance(node, list):
            for inside in node:
                walk(inside)
        elif isinstance(node, dict):
            held.extend((node, k) for k in TAKEN if node.get(k))
            for inside in node.values():
                walk(inside)

    walk([d for d in site["devices"] if d["kind"] in ("switch", "router", "firewall")])
    gates = [x for x in held if x[1] in ("vlan_interfaces", "subinterfaces")]
    if gates and data.draw(st.booleans()):
        held = gates
    for node, key in data.draw(st.lists(st.sampled_from(held), max_size=3, unique_by=lambda x: (id(x[0]), x[1]))):
        said = node.get(key)
        if isinstance(said, list) and said:
            said.pop(
                data.draw(st.integers(0, len(said) - 1))
            )  # one of several: the others show where such a thing stands
        else:
            node.pop(key, None)
    return site


def accepted(tree: Tree, offer: Offer) -> Tree:
    """Return the site with what is offered made as it is proposed, and named where it is to be."""
    value = fresh(tree, offer.kind, offer.at).value | offer.value
    if "name" in value and not value["name"]:
        value["name"] = "offered"
    after = apply(tree, make(tree, NewThing(offer.kind, offer.at, value)))[0]
    if offer.sets is not None:
        after = apply(after, [{"op": "add", "path": offer.sets, "value": value["name"]}])[0]
    return after


@law(1200, 25)
@given(st.integers(0, 10**6), st.data())
def test_what_is_offered_can_be_made_and_helps(seed: int, data: st.DataObject) -> None:
    """On spoiled sites: each offer stands at a box of the finding's kind; a zone, a gateway or a lease that was missing no longer is."""
    tree = without(sound_site(seed), data)
    try:
        site = parse_design(tree)
    except InputRefused:
        return
    for finding in Climb(site).findings:
        for offer in offers(tree, finding):
            event(f"{finding.code}: {offer.kind}")
            assert offer.kind in KINDS
            assert jsonpointer.resolve_pointer(tree, offer.at)["name"] in offer.title or "/vrfs/" in offer.at
            if not all(fresh(tree, offer.kind, offer.at).value.get(k, True) for k in ("to", "via")):
                continue  # nobody routes on a link of the box: a person has to say
            after = Climb(parse_design(accepted(tree, offer)))
            if finding.code in ("zone-missing", "gateway-missing", "lease-missing"):
                assert finding.sentence not in [f.sentence for f in after.findings]
