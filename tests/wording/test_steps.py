"""Every kind of step has its sentence, its stage and its height."""

from __future__ import annotations

from typing import get_args

import pytest

from anabasis.facts import (
    Arrives,
    Changed,
    FollowsRoute,
    KnowsSession,
    Layer,
    MeetsFilter,
    OverCable,
    Permits,
    Receives,
    Restores,
    Sends,
    SendsFrame,
    Stops,
    TakesFrame,
    TraceStep,
    Translates,
    Wrong,
    because,
)
from anabasis.wording import tell

CHANGE = (Changed("source", "10.64.1.9", "198.51.100.2"),)
STEPS: list[tuple[TraceStep, str, str, str, str]] = [
    (Sends("sends", "s", "", "on-link", "h", "10.0.0.1", "10.0.0.2"), "host", "gateway", "on the link of 10.0.0.1", "10.0.0.1"),
    (Sends("sends", "s", "", "to-gateway", "h", "10.0.0.1", "10.9.0.2", "10.0.0.254", True), "host", "gateway", "its gateway 10.0.0.254, assumed", "10.0.0.1"),
    (Sends("sends", "o", "", "from-behind", "o", "192.0.2.1", "10.9.0.2"), "host", "gateway", "from behind o", "192.0.2.1"),
    (OverCable("cable", "s", "", "a:1", "s:1"), "cable", "link", "from a:1 to s:1", "s:1"),
    (TakesFrame("frame-in", "s", "", "s:1", 110, 110), "frame", "vlan", "with tag 110 into VLAN 110", "VLAN 110"),
    (TakesFrame("frame-in", "s", "", "s:1", 0, None), "frame", "vlan", "takes the frame without a tag", "without a tag"),
    (TakesFrame("frame-in", "s", "", "s:1", 7, None, True), "frame", "vlan", "with tag 7", "inline"),
    (SendsFrame("frame-out", "s", "", "s:2"), "frame", "vlan", "s:2 sends the frame out", "s:2"),
    (Receives("received", "g", "", "g x.1", "x.1", "lab", True), "interface", "zone", "receives it (zone lab)", "x.1"),
    (Receives("received", "r", "", "r 1", "1", None, False), "interface", "gateway", "r 1 receives it", "1"),
    (Translates("translation", "g", "", "hide", CHANGE), "translation", "nat", "source 10.64.1.9 becomes 198.51.100.2", "hide"),
    (Restores("changed-back", "g", "", CHANGE), "translation", "nat", "changes the reply back", "changed back"),
    (FollowsRoute("route", "r", "", "10.0.0.0/8", "nowhere"), "route", "route", "is discarded", "10.0.0.0/8"),
    (FollowsRoute("route", "r", "", "::/0", "to-vrf", vrf="lab"), "route", "route", "leads to VRF lab", "::/0"),
    (FollowsRoute("route", "r", "", "0.0.0.0/0", "to-hop", "up", "", "10.0.0.9", "10.0.1.9", 2), "route", "route", "(through 10.0.1.9) by up, one of 2 equal-cost routes", "0.0.0.0/0"),
    (Permits("permit", "g", "", "web", ("in", "out")), "rule", "rule", "rule 'web' (in to out) permits it", "web"),
    (Permits("permit", "g", "", None, ("in", "in")), "rule", "rule", "no rule matches in to in", "default"),
    (MeetsFilter("filter", "r", "", "sieve 2", False, ("r:filter:sieve", "there", "there")), "rule", "rule", "entry 'sieve 2' lets it pass", "sieve 2"),
    (MeetsFilter("filter", "r", "", "bay", True, ("r:tunnel:bay", "there", "there")), "rule", "rule", "r: bay carries it", "bay"),
    (OverCable("cable", "s", "", "a:bay", "s:bay", "tunnel"), "cable", "link", "over the tunnel from a:bay", "s:bay"),
    (KnowsSession("session", "g", ""), "rule", "rule", "knows the session", "session"),
    (Arrives("arrives", "s", "", "delivered", "in-segment", "10.0.0.2", "lab"), "delivered", "link", "10.0.0.2 in lab receives it", "delivered"),
    (Arrives("arrives", "g", "", "answered", "own-address", "10.0.0.1", "x.1"), "answers", "answers", "g answers on 10.0.0.1 (x.1)", "answered"),
    (Stops("stops", "g", "", "route", because(Layer.ROUTE, Wrong.DISCARDED, device="g", to="10.0.0.0/8")), "route", "route", "g discards 10.0.0.0/8", "stops"),
]  # fmt: skip


@pytest.mark.parametrize(("step", "stage", "layer", "words", "label"), STEPS)
def test_a_step_is_told(step: TraceStep, stage: str, layer: str, words: str, label: str) -> None:
    """In words, and in a word or two."""
    told = tell(step)
    assert (told.stage, told.layer, told.label) == (stage, layer, label)
    assert words in told.text
    assert told.stopped == (step.kind == "stops")


def test_every_kind_is_told() -> None:
    """The list above leaves none out."""
    assert {type(s) for s, *_ in STEPS} == set(get_args(TraceStep))
