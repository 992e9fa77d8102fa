"""Tunnels by hand: two quays over a carrier, and what breaks the tunnel between them (RFC 7296, RFC 3948, RFC 2784; docs/semantics.md, "Tunnels")."""

from __future__ import annotations

import copy
from pathlib import Path
from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import load_file, parse_design
from anabasis.design.edits import patched
from anabasis.fabric import conditions_of
from anabasis.facts import Layer, Wrong
from anabasis.faults import faults_of
from anabasis.findings import Finding
from anabasis.views import cabling

QUAYS = load_file(Path(__file__).parent / "two_quays.yaml").raw
EAST, WEST, STREET = (
    next(k for k, d in enumerate(QUAYS["devices"]) if d["name"] == n) for n in ("east-gate", "west-gate", "street")
)
BAY, BACK = f"/devices/{EAST}/tunnels/0", f"/devices/{WEST}/tunnels/0"


def quays(*patch: dict[str, Any]) -> Climb:
    """Return the two quays after an edit."""
    return Climb(parse_design(patched(copy.deepcopy(QUAYS), list(patch))))


def put(path: str, value: object, op: str = "add") -> dict[str, Any]:
    """Return one operation."""
    return {"op": op, "path": path, "value": value}


def up(climb: Climb) -> set[str]:
    """Return the ends that are up."""
    return {f"{s.device}:{s.name}" for s in climb.site.conditions.tunnels if s.cause is None}


def down(climb: Climb, end: str = "east-gate:bay") -> tuple[Layer, Wrong]:
    """Return the lowest cause of an end that is down."""
    cause = next(s.cause for s in climb.site.conditions.tunnels if f"{s.device}:{s.name}" == end)
    assert cause is not None
    return cause.root.layer, cause.root.wrong


def found(climb: Climb, code: str) -> list[Finding]:
    """Return the findings of a code."""
    return [f for f in climb.findings if f.code == code]


def passes(climb: Climb, source: str, target: str, service: str = "tcp/443") -> bool:
    """Tell whether a packet passes, there and back, and that all pairs say the same."""
    went = climb.walk(source, target, service)
    cell = climb.sweep.flows(climb.segment(source), climb.segment(target))
    assert bool(cell.boxes) == (went.outcome != "stopped") or service != "tcp/443"
    return went.outcome != "stopped"


def filtering(*services: str) -> list[dict[str, Any]]:
    """Return the edit by which the carrier's router filters, and lets pass some services alone."""
    box = {
        "kind": "firewall",
        "zones": [{"name": z} for z in "abc"],
        "rules": [{"name": "some", "from": ["any"], "to": ["any"], "services": list(services), "action": "permit"}],
    }
    edits = [put(f"/devices/{STREET}/{k}", v, "replace" if k == "kind" else "add") for k, v in box.items()]
    for i, zone in enumerate("abc"):
        edits += [put(f"/devices/{STREET}/ports/{i}/zone", zone), put(f"/devices/{STREET}/ports/{i}/mode", "routed")]
    return edits


def test_two_quays_are_one() -> None:
    """Both ends are up, hosts reach each other over the tunnel, and the walk says by what it went."""
    climb = quays()
    assert up(climb) == {"east-gate:bay", "west-gate:bay", "east-gate:home"}
    assert passes(climb, "east", "west")
    assert passes(climb, "west", "east")
    steps = climb.walk("east", "west", "tcp/443").steps
    assert any(s.kind == "cable" and s.over == "tunnel" for s in steps)
    assert [s.entry for s in steps if s.kind == "filter"] == ["bay"]
    assert found(climb, "tunnel-down") == []


@pytest.mark.parametrize(
    ("services", "wrong"),
    [
        (("udp/500", "esp"), None),
        (("udp/500",), Wrong.DEFAULT_DROPS),  # RFC 7296 section 2: IKE alone is no tunnel
        (("esp",), Wrong.DEFAULT_DROPS),
        (("udp/500", "udp/4500"), Wrong.DEFAULT_DROPS),  # no translation, so ESP by itself (RFC 3948 section 1)
    ],
)
def test_what_passes_outside(services: tuple[str, ...], wrong: Wrong | None) -> None:
    """A rule outside breaks the tunnel, and is what is named; the route into it is a consequence."""
    climb = quays(*filtering(*services))
    if wrong is None:
        assert "east-gate:bay" in up(climb)
        return
    assert "east-gate:bay" not in up(climb)
    assert down(climb) == (Layer.RULE, wrong)
    head = found(climb, "tunnel-down")[0]
    assert head.pointers[0].startswith(f"/devices/{STREET}")
    assert found(climb, "route-inactive") == []
    assert not passes(climb, "east", "west")


def test_behind_a_translation() -> None:
    """The east is hidden behind the carrier: it begins, the west takes whoever comes, and udp/4500 carries it (RFC 3948)."""
    hide = [{"name": "hide", "from": ["a"], "to": ["b"], "source_to": "interface"}]
    anybody = put(f"{BACK}/peer", "any", "replace")
    assert "east-gate:bay" in up(quays(*filtering("udp/500", "udp/4500"), put(f"/devices/{STREET}/nat", hide), anybody))
    lost = quays(*filtering("udp/500", "esp"), put(f"/devices/{STREET}/nat", hide), anybody)
    assert down(lost) == (Layer.RULE, Wrong.DEFAULT_DROPS)
    seen = quays(*filtering("udp/500", "udp/4500"), put(f"/devices/{STREET}/nat", hide))
    assert down(seen) == (Layer.TUNNEL, Wrong.TUNNEL_PEER)
    assert "203.0.113.1" in found(seen, "tunnel-down")[0].sentence


@pytest.mark.parametrize(
    ("patch", "wrong"),
    [
        (put(f"{BACK}/protocol", "gre", "replace"), Wrong.TUNNEL_PROTOCOL),
        (put(f"{BACK}/secret", "default"), Wrong.TUNNEL_SECRET),
        (put(f"{BACK}/peer", "198.51.100.9", "replace"), Wrong.TUNNEL_PEER),
        (put(f"{BAY}/enabled", False), Wrong.TUNNEL_OFF),
    ],
)
def test_ends_that_disagree_are_told_once(patch: dict[str, Any], wrong: Wrong) -> None:
    """Both are to blame; the edit that is offered brings the tunnel up."""
    climb = quays(patch)
    assert not up(climb) & {"east-gate:bay", "west-gate:bay"}
    assert down(climb) == (Layer.TUNNEL, wrong)
    (head,) = [f for f in found(climb, "tunnel-down") if f.cause is not None and f.cause.root.wrong == wrong]
    assert head.mend is not None
    mended = Climb(parse_design(patched(climb.site.written, head.mend)))
    assert {"east-gate:bay", "west-gate:bay"} <= up(mended)


def test_both_wait() -> None:
    """Two ends that only answer never begin."""
    climb = quays(*(put(f"{at}/peer", "any", "replace") for at in (BAY, BACK)))
    assert down(climb) == (Layer.TUNNEL, Wrong.TUNNEL_WAITS)


def test_one_that_needs_itself() -> None:
    """The west is reached through the tunnel alone: it never comes up, and nothing says it is."""
    climb = quays(
        {"op": "remove", "path": f"/devices/{EAST}/vrfs/0/routes/0"},
        put(f"/devices/{EAST}/vrfs/0/routes/-", {"to": "203.0.113.0/28", "interface": "bay"}),
    )
    assert "east-gate:bay" not in up(climb)
    assert not passes(climb, "east", "west")


def test_one_that_would_take_itself_down() -> None:
    """A longer route leads its own packets into it as soon as it is up: it stays down, and the route is named."""
    climb = quays(put(f"/devices/{EAST}/vrfs/0/routes/-", {"to": "203.0.113.0/28", "interface": "bay"}))
    assert down(climb) == (Layer.TUNNEL, Wrong.TUNNEL_ITSELF)
    (head,) = found(climb, "tunnel-down")
    assert head.pointers[0] == f"/devices/{EAST}/vrfs/0/routes/2"


def test_selectors_filter_what_routes_attract() -> None:
    """Both ends' selectors are narrowed to what both name (RFC 7296 section 2.9); they are no mirror images, which is found and mended."""
    climb = quays(put(f"{BACK}/there", ["10.1.0.0/25"], "replace"))
    assert climb.walk("10.1.0.9", "west", "tcp/443").outcome == "delivered"
    lost = climb.walk("10.1.0.200", "west", "tcp/443")
    assert (lost.layer, lost.cause.root.wrong if lost.cause else None) == (Layer.TUNNEL, Wrong.TUNNEL_SELECTORS)
    (unlike,) = found(climb, "selectors-unlike")
    assert unlike.mend is not None
    mended = Climb(parse_design(patched(climb.site.written, unlike.mend)))
    assert mended.walk("10.1.0.200", "west", "tcp/443").outcome == "delivered"
    assert found(mended, "selectors-unlike") == []


def test_a_filter_on_a_tunnel_stands_beside_what_it_carries() -> None:
    """Both have to let a packet pass: the selectors stay what they are."""
    sieve = {"name": "sieve", "entries": [{"services": ["tcp/443"], "action": "permit"}]}
    held = [put(f"/devices/{EAST}/filters", [sieve]), put(f"{BAY}/filter_out", "sieve")]
    climb = quays(*held)
    assert passes(climb, "east", "west")
    assert climb.walk("east", "west", "tcp/22").layer == Layer.RULE
    narrow = quays(*held, put(f"{BACK}/there", ["10.1.0.0/25"], "replace"))
    assert narrow.walk("10.1.0.200", "west", "tcp/443").layer == Layer.TUNNEL


def test_who_dials_in() -> None:
    """A segment of its own; what is not sent into the tunnel stops there, layer `tunnel`; closed outside, nobody dials in."""
    climb = quays()
    assert passes(climb, "home", "east")
    assert passes(climb, "east", "home")
    assert climb.walk("home", "west", "tcp/443").layer == Layer.TUNNEL
    everything = quays(put(f"/devices/{EAST}/remote_access/0/routes", "all"))
    stopped = [c.walk("home", "west", "tcp/443").cause for c in (climb, everything)]
    assert [c.value("tunnel") for c in stopped if c is not None] == ["home", "bay"]
    shut = quays(*filtering("udp/500"))
    assert "east-gate:home" not in up(shut)
    assert down(shut, "east-gate:home") == (Layer.RULE, Wrong.DEFAULT_DROPS)
    assert not passes(shut, "home", "east")


def test_a_cable_outside_takes_it_down() -> None:
    """And what is lost with the cable is the tunnel, and what it was for."""
    design = quays().design
    broken = Climb(design, conditions_of(design, ["street:2--west-gate:2"]))
    assert not up(broken) & {"east-gate:bay", "west-gate:bay"}
    assert not passes(broken, "east", "west")
    assert up(broken) == {"east-gate:home"}
    event = quays().failover(["street"])
    assert {("east", "west"), ("west", "east")} <= {(x.source, x.target) for x in event.settled.lost}


def test_an_edit_finds_the_tunnel_as_from_nothing() -> None:
    """A rule outside closes it, and opens it again."""
    first = quays(*filtering("udp/500", "esp"))
    assert passes(first, "east", "west")
    shut = first.edited(
        parse_design(patched(first.site.written, [put(f"/devices/{STREET}/rules/0/services", ["esp"], "replace")]))
    )
    assert not passes(shut, "east", "west")
    told = shut.consequences_since(first)
    assert {(c.source, c.target) for c in told.closed} >= {("east", "west"), ("west", "east")}
    again = shut.edited(first.design)
    assert passes(again, "east", "west")
    assert (again.sweep.fingerprints == first.sweep.fingerprints).all()


def test_a_tunnel_that_is_down_is_drawn_where_it_would_lead() -> None:
    """With the other secret both ends stand on the drawing, joined by one line that is down, and say why."""
    climb = quays(put(f"{BAY}/secret", "default"))
    lines = [x for x in cabling(climb.site.fabric).lines if x.kind == "tunnel"]
    assert [x.state for x in lines] == ["down"]
    assert set(lines[0].ends) == {"east-gate", "west-gate"}
    assert "secret" in lines[0].reason


@pytest.mark.parametrize("hidden", [False, True])
def test_what_is_closed_outside_is_named(hidden: bool) -> None:
    """Of IKE, ESP and udp/4500 one is closed on the way: where the tunnel needs it the rule, or the default that drops it, is named; else all stays up."""
    edits = filtering("udp/500", "udp/4500", "esp")
    if hidden:
        hide = [{"name": "hide", "from": ["a"], "to": ["b"], "source_to": "interface"}]
        edits += [put(f"/devices/{STREET}/nat", hide), put(f"{BACK}/peer", "any", "replace")]
    sound = patched(copy.deepcopy(QUAYS), edits)
    assert "east-gate:bay" in up(Climb(parse_design(sound)))
    made = [f for f in faults_of(sound) if f.kind == "tunnel-outer"]
    assert len(made) == 3
    needed = 0
    for fault in made:
        climb = Climb(parse_design(patched(copy.deepcopy(sound), list(fault.edit))))
        if "east-gate:bay" in up(climb):
            continue
        needed += 1
        went = climb.walk("east", "west", "tcp/443")
        assert went.cause is not None
        assert set(went.cause.pointers) & set(fault.guilty)
        told = found(climb, "tunnel-down")
        assert set(told[0].pointers) & set(fault.guilty)
    assert needed == 2  # a translation on the way takes ESP out and udp/4500 in (RFC 3948 section 2.1)
