"""Laws of reach: what an edit may do to it, whatever the site."""

from __future__ import annotations

import ast
import copy
from collections import Counter

from hypothesis import assume, given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import all_links, apply, parse_design, rename
from anabasis.design.edits import patched
from anabasis.verdicts import Consequences
from tests.counts import law
from tests.sites import VLANS, Tree, access, sites, trunk

LAW = law(400, 20)


def climbed(tree: Tree) -> Climb:
    """Return the climb of a tree."""
    return Climb(parse_design(tree))


@LAW
@given(sites())
def test_a_permit_added_never_closes_a_flow(tree: Tree) -> None:
    """A rule that permits everything, put on top, only opens."""
    firewalls = [d for d in tree["devices"] if d["kind"] == "firewall"]
    assume(firewalls)
    more = copy.deepcopy(tree)
    device = next(d for d in more["devices"] if d["kind"] == "firewall")
    device["rules"].insert(0, {"name": "added", "from": ["any"], "to": ["any"], "action": "permit"})
    changed = climbed(more).consequences_since(climbed(tree))
    assert not changed.closed
    assert not changed.changed


@LAW
@given(sites())
def test_renaming_changes_no_verdict(tree: Tree) -> None:
    """New names for VLANs, devices and rules, everywhere they are used, give the same verdicts.

    Segments sort by name, so pairs may come in another order; the order of bridges is kept, as the spanning tree's root hangs on it.
    """
    text = repr(tree)
    names = {"'sw0": "'tw0", "'sw1": "'tw1", "'sw2": "'tw2", "'v11'": "'anemone'", "'r0'": "'first'"}
    for old, new in names.items():
        text = text.replace(old, new)
    renamed: Tree = ast.literal_eval(text)
    before, after = climbed(tree), climbed(renamed)
    tallies = [Counter((v.verdict, v.layer) for v in c.verdicts().all) for c in (before, after)]
    assert tallies[0] == tallies[1]


@LAW
@given(sites(), st.data())
def test_a_rename_changes_no_verdict(tree: Tree, data: st.DataObject) -> None:
    """Whatever has a name and is called by others, renamed by the edit that changes every reference."""
    kinds = ("Zone", "VRF", "Address set", "Service set", "Port", "Translation", "Rule")
    named = [e.pointer for e in all_links(tree) if e.kind in kinds]
    assume(named)
    pointer = data.draw(st.sampled_from(named))
    assume(not pointer.endswith("/vrfs/0"))  # what is called main is main by that name
    after = Climb(apply(tree, rename(tree, pointer, "heron"))[1])
    before = climbed(tree)
    tallies = [Counter((v.verdict, v.layer) for v in c.verdicts().all) for c in (before, after)]
    assert tallies[0] == tallies[1]
    assert not after.consequences_since(before).closed or pointer.split("/")[-2] == "ports"


@LAW
@given(sites())
def test_a_rule_that_does_nothing_can_go(tree: Tree) -> None:
    """What is found shadowed, redundant or never met changes no flow when it is taken out."""
    climb = climbed(tree)
    for finding in climb.findings:
        if finding.code in ("rule-shadowed", "rule-redundant", "rule-unmet"):
            without = climbed(patched(tree, [{"op": "remove", "path": finding.pointers[0]}]))
            assert not without.consequences_since(climb), finding.sentence


APART = (
    ({"services": ["tcp/80-90"]}, {"services": ["udp/53", "gre", "tcp/91"]}),
    ({"sources": ["10.64.11.0/24"]}, {"sources": ["10.64.12.0/25", "192.0.2.0/24"]}),
    ({"destinations": ["10.64.12.0/25"]}, {"destinations": ["10.64.12.128/25", "10.64.13.0/24"]}),
)
"""Pairs of rules that no packet matches both of."""


@LAW
@given(sites(), st.sampled_from(APART), st.integers(0, 4), st.permutations(("permit", "drop")))
def test_a_rule_moved_past_one_it_does_not_overlap_changes_nothing(
    tree: Tree, apart: tuple[Tree, Tree], at: int, actions: list[str]
) -> None:
    """Order counts only between rules that may match one packet."""
    d = next((d for d, device in enumerate(tree["devices"]) if device["kind"] == "firewall"), None)
    assume(d is not None)
    one, two = (
        {"name": f"x{k}", "from": ["any"], "to": ["any"], "action": a, **apart[k]} for k, a in enumerate(actions)
    )
    tree["devices"][d]["rules"][at:at] = [one, two]
    here = tree["devices"][d]["rules"].index(one)
    patch = [{"op": "move", "from": f"/devices/{d}/rules/{here}", "path": f"/devices/{d}/rules/{here + 1}"}]
    assert not Climb(apply(tree, patch)[1]).consequences_since(climbed(tree))


@LAW
@given(sites())
def test_consequences_mirror(tree: Tree) -> None:
    """What an edit closes, its inverse opens: pair for pair and flow for flow."""
    first = tree["devices"][0]["ports"][0]
    before, after = climbed(tree), None
    patch = [{"op": "add", "path": "/devices/0/ports/0/enabled", "value": not first.get("enabled", True)}]
    after = Climb(apply(tree, patch)[1])
    there, back = after.consequences_since(before), before.consequences_since(after)
    assert flows(there, "opened", "gained") == flows(back, "closed", "lost")
    assert flows(there, "closed", "lost") == flows(back, "opened", "gained")
    assert Counter(r.parts for r in there.split) == Counter(r.parts for r in back.joined)


def flows(consequences: Consequences, kind: str, side: str) -> Counter[str]:
    """Return what was gained or lost, pair by pair, whatever the segments are called before and after."""
    changes = [getattr(c, side) for c in getattr(consequences, kind)]
    return Counter("any" if "one segment" in str(flows) else str(flows) for flows in changes)


@LAW
@given(sites())
def test_no_edit_no_consequences(tree: Tree) -> None:
    """Two climbs of one design differ in nothing."""
    assert not climbed(tree).consequences_since(climbed(tree))


@LAW
@given(sites(), st.sampled_from(VLANS))
def test_a_cable_added_never_splits_a_segment(tree: Tree, vlan: int) -> None:
    """A new cable between two switches joins at most, where no spanning tree changes; ports that shared a segment still do."""
    switches = [d for d in tree["devices"] if d["kind"] == "switch"]
    assume(len(switches) > 1)
    more = copy.deepcopy(tree)
    one, two = (next(d for d in more["devices"] if d["name"] == s["name"]) for s in (switches[0], switches[-1]))
    one["ports"].append(trunk("new", *VLANS))
    two["ports"].append(access("new", vlan))
    unplugged = climbed(more)
    more["cables"].append([f"{one['name']}:new", f"{two['name']}:new"])
    plugged = climbed(more)
    assume(not unplugged.site.fabric.tree.blocked and not plugged.site.fabric.tree.blocked)
    ports = {label for s in plugged.site.segments.all for label in s.labels}
    for segment in unplugged.site.segments.all:
        # only ports that carry one VLAN, so that a label stands for one attachment; the VLAN interface of a box that filters
        # between its own ports stands on no side of it
        own = {x for x in segment.labels if x in ports and not x.endswith(":new") and not x.startswith("fence:vlan")}
        mine = {x for x in own if _single(unplugged, x)}
        homes = {s.name for s in plugged.site.segments.all if s.kind != "outside" and mine & set(s.labels)}
        assert segment.kind == "outside" or len(homes) <= 1


def _single(climb: Climb, label: str) -> bool:
    return sum(label in s.labels for s in climb.site.segments.all) == 1


@LAW
@given(sites())
def test_every_mend_applies_and_leaves_a_valid_design(tree: Tree) -> None:
    """The edit a finding offers can be made, and its finding is gone afterwards."""
    climb = climbed(tree)
    for finding in climb.findings:
        assert finding.sentence.endswith(".")
        for pointer in finding.pointers:
            assert pointer.startswith("/")
        if finding.mend:
            mended = climbed(patched(tree, finding.mend))
            assert finding.sentence not in [f.sentence for f in mended.findings]
