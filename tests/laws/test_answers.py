"""Answers beside the matrix are what the exact flows say: what one address has to do with, and which rules decide a pair."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from ipaddress import ip_address

from hypothesis import given
from hypothesis import strategies as st

from anabasis.classes import Box
from anabasis.classes.services import merge_services
from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.errors import UnknownPlace
from anabasis.probe import exposure
from anabasis.verdicts import deciding_rules
from tests.counts import law
from tests.sites import Tree, sites


def boxes_at(climb: Climb, a: int, b: int, family: int, address: int, outward: bool) -> Iterator[Box]:
    """Yield the boxes of a pair's flows that hold an address at one end."""
    for box in climb.sweep.flows(a, b).boxes:
        near = box.sources if outward else box.destinations
        if box.family == family and any(low <= address <= high for low, high in near):
            yield box


@law(500, 30)
@given(sites())
def test_exposure_is_what_the_flows_of_an_address_are(tree: Tree) -> None:
    """For the first host of every segment, both ways: the same segments, the same services."""
    climb = Climb(parse_design(tree))
    segments = climb.site.segments.all
    for a, segment in enumerate(segments):
        try:
            found = exposure(climb.verdicts(), segment.name)
        except UnknownPlace:
            continue  # no host stands there
        for one in found:
            family = 6 if ":" in one.address else 4
            number = int(ip_address(one.address))
            for outward, told in ((True, one.reaches), (False, one.reached_by)):
                wanted: dict[str, str] = {}
                for b, other in enumerate(segments):
                    pair = (a, b) if outward else (b, a)
                    boxes = list(boxes_at(climb, *pair, family, number, outward)) if a != b else []
                    if boxes and other.kind != "transit":
                        services = merge_services(s for x in boxes for s in x.services)
                        wanted[other.name] = climb.sweep.called(services, family)
                assert {e.segment: e.services for e in told} == wanted


@law(500, 30)
@given(sites(), st.data())
def test_the_deciding_rules_do_what_all_rules_do(tree: Tree, data: st.DataObject) -> None:
    """With every other rule of the site switched off the pair has the same flows."""
    before = Climb(parse_design(tree))
    led = [p for p in before.sweep.pairs if deciding_rules(before.sweep, *p)]
    if not led:
        return
    a, b = data.draw(st.sampled_from(led))
    kept = {d.pointer for d in deciding_rules(before.sweep, a, b)}

    def flows(enabled: set[str]) -> object:
        other = copy.deepcopy(tree)
        for d, device in enumerate(other["devices"]):
            for k, rule in enumerate(device.get("rules", [])):
                rule["enabled"] = f"/devices/{d}/rules/{k}" in enabled
        return Climb(parse_design(other)).sweep.flows(a, b)

    assert flows(kept) == before.sweep.flows(a, b)
