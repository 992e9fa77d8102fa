"""Which tunnels are up: the least fixed point. All down, compute, bring up what comes up, again, until nothing changes (Tarski).

A tunnel that needs itself never comes up that way. One whose own packets would go into it as soon as it is up would go down again: it stays
down, and says so. The layers below know nothing of this: they are given which tunnels are up as a condition.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.notation import parse_address
from anabasis.fabric import ALL_WELL, Conditions, Fabric, TunnelState
from anabasis.facts import Cause, Layer, Wrong, because
from anabasis.leases import build_site as without_tunnels
from anabasis.routing import look_up, on_overlay
from anabasis.site import Site
from anabasis.tunnels.outer import End, links, meant


def build_site(
    design: Design, conditions: Conditions = ALL_WELL, before: Site | None = None, fabric: Fabric | None = None
) -> Site:
    """Climb from the document to hosts with leases, every tunnel up that can be.

    `before`: another state, of whose layers what is the same is taken over: most where its conditions are the same. `fabric`: layers 1 and 2 with
    every tunnel down, where they are known. Cost: a site a round, of which there are as many as tunnels lean on each other, and two more.
    """
    bare = replace(conditions, tunnels=()) if conditions.tunnels else conditions
    tunnels = any(isinstance(d, BridgingBox) and (d.tunnels or d.remote_access) for d in design.devices)
    if not tunnels and not on_overlay(design):
        return without_tunnels(design, bare, before, fabric)
    up: dict[End, End | None] = {}
    barred: dict[End, Cause] = {}
    site = without_tunnels(design, bare, before, fabric)
    while True:
        found = links(site)
        lost = [e for e in up if found.up.get(e, e) != up[e]]
        come = {e: p for e, p in found.up.items() if e not in up and not {e, p} & barred.keys()}
        if lost:
            barred |= {e: _itself(site, e, up[e]) for e in lost}
            up = {}
        elif not come:
            causes = {**found.causes, **barred}
            told = replace(bare, tunnels=_states(up, causes, meant(site)))
            return without_tunnels(design, told, before if before is not None and before.conditions == told else site)
        else:
            up |= come
        site = without_tunnels(design, replace(bare, tunnels=_states(up, {}, {})), site)


def _states(
    up: Mapping[End, End | None], causes: Mapping[End, Cause], others: Mapping[End, End]
) -> tuple[TunnelState, ...]:
    down: Iterable[TunnelState] = (TunnelState(*e, None, c, others.get(e)) for e, c in causes.items() if e not in up)
    return (
        *(TunnelState(*e, peer, None) for e, peer in sorted(up.items())),
        *sorted(down, key=lambda s: (s.device, s.name)),
    )


def _itself(site: Site, end: End, peer: End | None) -> Cause:
    """Name the route that takes a tunnel's own packets into it, and both its ends."""
    guilty: list[str] = []
    for device, name in sorted(e for e in (end, peer) if e is not None):
        at, box = site.item_of(device), next(d for d in site.design.devices if d.name == device)
        if not isinstance(box, BridgingBox):
            continue  # somebody else's network, that takes it
        for i, tunnel in enumerate(box.tunnels):
            if tunnel.name == name:
                guilty.append(f"{at}/tunnels/{i}")
                table = site.net.tables.get((device, tunnel.vrf or "main"))
                known = look_up(table, parse_address(tunnel.peer)).winner if table and tunnel.peer != "any" else None
                if known is not None and known.interface in {t.name for t in box.tunnels}:
                    guilty.insert(0, known.pointer)
        guilty.append(at)
        guilty += [f"{at}/remote_access/{i}" for i, a in enumerate(box.remote_access) if a.name == name]
    first = min(e for e in (end, peer) if e is not None)
    return because(Layer.TUNNEL, Wrong.TUNNEL_ITSELF, *guilty, values={"tunnel": first[1], "device": first[0]})
