"""Stateless filters by hand (RFC 8519; docs/semantics.md, "Stateless filters")."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design.filters import FilterEntry
from anabasis.facts import Layer, Wrong
from anabasis.policy.filters import replies_of
from tests.sites import access, design_of, plan


def core(*entries: dict[str, Any], **where: str) -> Climb:
    """Return a router between VLANs 11 and 12, with a filter at its interface of VLAN 12."""
    box = {
        "name": "core",
        "kind": "switch",
        "routing": True,
        "ports": [access("1", 11), access("2", 12)],
        "filters": [{"name": "sieve", "entries": list(entries)}],
        "vlan_interfaces": [
            {"vlan": 11, "addresses": ["10.64.11.1/24"]},
            {"vlan": 12, "addresses": ["10.64.12.1/24"], **where},
        ],
    }
    return Climb(design_of(vlans=plan(11, 12), devices=[box]))


def both(climb: Climb, service: str) -> bool:
    """Tell whether a packet from 11 to 12 passes and its reply comes back, as the walk and all pairs have it."""
    went = climb.walk("v11", "v12", service)
    flows = climb.sweep.flows(climb.segment("v11"), climb.segment("v12"))
    number = {"tcp": 6, "udp": 17, "icmp": 1}[service.partition("/")[0]]
    port = int(service.partition("/")[2])
    held = any(p == number and low <= port <= high for x in flows.boxes for p, low, high in x.services)
    assert held == (went.outcome == "delivered"), went.reason
    return held


WEB = {"destinations": ["10.64.12.0/24"], "services": ["tcp/443"], "action": "permit"}
BACK = {"sources": ["10.64.12.0/24"], "services": ["tcp/0-65535"], "established": True, "action": "permit"}


def test_without_an_entry_everything_is_dropped() -> None:
    """What none matches is dropped, and the filter is what one is sent to."""
    climb = core(filter_out="sieve")
    assert not both(climb, "tcp/443")
    cause = climb.walk("v11", "v12", "tcp/443").cause
    assert cause is not None
    assert (cause.layer, cause.wrong, cause.pointers[0]) == (Layer.RULE, Wrong.FILTER_LACKS, "/devices/0/filters/0")


def test_the_reply_needs_an_entry_of_its_own() -> None:
    """One way a filter on the way out is enough; on the way in as well the reply is lost, until replies of TCP may pass."""
    assert both(core(WEB, filter_out="sieve"), "tcp/443")
    shut = core(WEB, filter_out="sieve", filter_in="sieve")
    assert not both(shut, "tcp/443")
    assert shut.walk("v11", "v12", "tcp/443").layer == Layer.RETURN
    assert both(core(WEB, BACK, filter_out="sieve", filter_in="sieve"), "tcp/443")


def test_established_opens_nothing() -> None:
    """It matches replies of TCP, and no packet that opens a session."""
    assert not both(core(BACK, filter_out="sieve"), "tcp/443")
    assert not both(core({**BACK, "sources": ["any"]}, filter_out="sieve"), "tcp/443")


def test_the_first_entry_decides() -> None:
    """And one that is switched off does not."""
    drop = {"services": ["tcp/443"], "action": "drop"}
    climb = core(drop, WEB, filter_out="sieve")
    assert not both(climb, "tcp/443")
    cause = climb.walk("v11", "v12", "tcp/443").cause
    assert cause is not None
    assert (cause.wrong, cause.pointers[0]) == (Wrong.FILTER_DROPS, "/devices/0/filters/0/entries/0")
    assert both(core({**drop, "enabled": False}, WEB, filter_out="sieve"), "tcp/443")


def test_pings() -> None:
    """The reply to an echo is of another type (RFC 792)."""
    asks, told = {"services": ["ping"], "action": "permit"}, {"services": ["icmp/0"], "action": "permit"}
    assert not both(core(asks, filter_out="sieve", filter_in="sieve"), "icmp/8")
    assert both(core(asks, told, filter_out="sieve", filter_in="sieve"), "icmp/8")


@pytest.mark.parametrize(
    ("services", "established", "replies"),
    [
        (None, False, None),
        (None, True, frozenset({(6, 0, 65535)})),
        (frozenset({(6, 443, 443)}), False, frozenset()),
        (frozenset({(6, 443, 443)}), True, frozenset({(6, 0, 65535)})),
        (frozenset({(17, 0, 65535), (47, 0, 0)}), False, frozenset({(17, 0, 65535), (47, 0, 0)})),
        (frozenset({(1, 0, 0)}), False, frozenset({(1, 8, 8)})),
        (frozenset({(1, 8, 8)}), False, frozenset()),
        (frozenset({(1, 3, 3)}), False, frozenset({(1, 3, 3)})),
        (frozenset({(58, 129, 129)}), False, frozenset({(58, 128, 128)})),
    ],
)
def test_whose_replies_an_entry_lets_pass(services: Any, established: bool, replies: Any) -> None:
    """By protocol, since the asker chooses its port."""
    entry = FilterEntry(established=established, action="permit")
    assert replies_of(services, entry.established) == replies
