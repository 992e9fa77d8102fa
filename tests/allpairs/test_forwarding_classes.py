"""What forwarding tells apart: a reply around a firewall joins nothing, and where packets are lost is told."""

from __future__ import annotations

import numpy as np
import pytest

from anabasis.climb import Climb
from anabasis.design import Tree
from tests.sites import design_of


def triangle(back: str) -> Climb:
    """Return a host and a server behind two routers that a firewall joins, and a cable beside it. `back`: the next hop of the way back."""

    def router(name: str, net: int, to: str, via: str) -> Tree:
        ports = [{"name": n, "addresses": [a]} for n, a in (("host", f"10.{net}.9.1/24"), ("fw", f"10.{net}.1.1/24"))]
        ports.append({"name": "beside", "addresses": [f"10.66.0.{net}/24"]})
        return {
            "name": name,
            "kind": "router",
            "ports": ports,
            "vrfs": [{"name": "main", "routes": [{"to": to, "via": via}]}],
        }

    fence = {
        "name": "fw",
        "kind": "firewall",
        "zones": [{"name": "in"}, {"name": "out"}],
        "rules": [{"name": "all", "from": ["in"], "to": ["out"], "action": "permit"}],
        "ports": [
            {"name": z, "mode": "routed", "zone": z, "addresses": [f"10.{net}.1.2/24"]} for z, net in (("in", 64), ("out", 65))
        ],
        "vrfs": [
            {
                "name": "main",
                "routes": [{"to": "10.64.9.0/24", "via": "10.64.1.1"}, {"to": "10.65.9.0/24", "via": "10.65.1.1"}],
            }
        ],
    }  # fmt: skip
    ends = [
        {"name": n, "kind": "endpoint", "addresses": [f"10.{net}.9.7/24"]} for n, net in (("host", 64), ("server", 65))
    ]
    cables = [["host:1", "near:host"], ["server:1", "far:host"], ["near:fw", "fw:in"], ["far:fw", "fw:out"]]
    devices = [fence, router("near", 64, "10.65.9.0/24", "10.64.1.2"), router("far", 65, "10.64.9.0/24", back), *ends]
    return Climb(design_of(devices=devices, cables=[*cables, ["near:beside", "far:beside"]]))


def joined(climb: Climb) -> bool:
    """Tell whether forwarding joins the host and the server."""
    fecs = climb.sweep.planes[4].fecs
    a, b = (
        fecs.in_segment(next(g.segment for g in climb.site.net.hosts if g.endpoint == n)) for n in ("host", "server")
    )
    return bool((fecs.filter_set[np.ix_(a, b)] >= 0).any())


@pytest.mark.parametrize(("back", "whole"), [("10.65.1.2", True), ("10.66.0.64", False)])
def test_a_reply_around_the_firewall_joins_nothing(back: str, whole: bool) -> None:
    """The firewall knows the session and never sees the reply: all pairs and the walk say the same."""
    climb = triangle(back)
    assert joined(climb) == whole
    went = climb.walk("host", "server", "https")
    assert (went.outcome != "stopped", went.layer) == (whole, None if whole else "return")


@pytest.mark.parametrize(
    ("back", "place", "reply"),
    [("10.66.0.64", "", True), ("10.65.1.99", "far 1 fw", True), ("10.99.0.1", "far", True)],
)
def test_where_packets_are_lost_is_told(back: str, place: str, reply: bool) -> None:
    """In a box that knows no way, on a link where nobody hears; nowhere where both ways lead there, over other firewalls."""
    climb = triangle(back)
    fecs = climb.sweep.planes[4].fecs
    names, codes = fecs.lost_places
    at = {int(k): n for n, k in enumerate(np.unique(fecs.segment))}
    a, b = (at[next(g.segment for g in climb.site.net.hosts if g.endpoint == n)] for n in ("host", "server"))
    code = int(codes[a, b])
    assert (names[code // 2].split(" ")[0], code % 2 == 1) == (place.split(" ")[0], reply)


def test_shapes_name_every_forwarding_class_once(climb: Climb) -> None:
    """Rows and columns of what one filter set decides are sorted, and each is there once."""
    for plane in climb.sweep.planes.values():
        for number, shape in plane.fecs.shapes.items():
            for side in (shape.rows, shape.columns):
                assert side.tolist() == sorted(set(side.tolist()))
            decided = plane.fecs.filter_set == number
            inside = np.ix_(shape.rows, shape.columns)
            assert decided.sum() == decided[inside].sum()
            assert (decided[inside] == (True if shape.inside is None else shape.inside)).all()
