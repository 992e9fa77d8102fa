"""A design proved by packets: what was computed beside what happened."""

from __future__ import annotations

import platform
import time
from collections.abc import Callable, Iterable, Sequence

from anabasis.design import Tree
from anabasis.design.devices import Outside, Switch
from anabasis.fabric import conditions_of
from anabasis.facts import Covers, Proof, ProofProbe, Proved, TakenAs
from anabasis.failover import stand
from anabasis.packets import Given, Probe, send, unproved
from anabasis.proof.choosing import Chosen, choose
from anabasis.site import Site
from anabasis.testing import scene_of
from anabasis.verdicts import one_service


def prove(
    tree: Tree,
    pairs: Sequence[tuple[str, str]] = (),
    failed: Iterable[str] = (),
    spoil: Callable[[ProofProbe], ProofProbe] = lambda p: p,
) -> Proof:
    """Send packets through a design built of namespaces, and return what became of each.

    `pairs`: of segments, these alone. `failed`: what does not work meanwhile. `spoil`: changes what was
    computed before it is compared, so that a test can see a wrong verdict found. Raises InputRefused where the machine cannot, UnknownPlace for a part that is none.
    """
    begun = time.monotonic()
    scene = scene_of(tree)
    parts = tuple(failed)
    site = stand(scene.by_hand.design, conditions_of(scene.by_hand.design, parts)) if parts else scene.by_hand
    chosen = choose(site, {s.laptop: s.at for s in scene.stands if s.laptop}, unproved(site.design), pairs)
    computed = [spoil(p) for p in chosen.probes]
    seen = send(site.design, given_of(site, chosen), [_packet(site, p) for p in computed])
    results = tuple(Proved(p, str(s)) for p, s in zip(computed, seen, strict=True))
    return Proof(
        results, _covered(chosen), chosen.left_out, _taken(site), parts, platform.release(), time.monotonic() - begun
    )


def given_of(site: Site, chosen: Chosen) -> Given:
    """Return what packets are built on as it was computed: who is active, what the spanning tree blocks, leases, routes learnt."""
    hosts: dict[str, tuple[list[str], list[str]]] = {}
    for group in site.net.hosts:
        if group.endpoint:
            addresses, gateways = hosts.setdefault(group.endpoint, ([], []))
            addresses.append(f"{group.first}/{group.subnet.prefixlen}")
            if group.gateway is not None:
                gateways.append(str(group.gateway))
    learnt = tuple(
        (box, vrf, str(r.to), str(r.hop or ""), r.interface or "")
        for (box, vrf), table in site.net.tables.items()
        for r in table.routes
        if r.origin == "ospf" and r.active
    )
    return Given(
        {pair: unit for pair, _, unit in site.conditions.active},
        frozenset(site.fabric.tree.blocked),
        {name: (tuple(a), tuple(g)) for name, (a, g) in hosts.items()},
        learnt,
        {name: tuple(sorted(held)) for name, held in chosen.behind.items()},
        site.conditions.failed,
    )


def _packet(site: Site, probe: ProofProbe) -> Probe:
    protocol, number = one_service(site, probe.service, {6 if ":" in probe.target else 4})
    return Probe(probe.sender, probe.source, probe.target, protocol, number)


def _covered(chosen: Chosen) -> dict[Covers, tuple[int, int, int]]:
    sides: dict[tuple[Covers, str], set[bool]] = {}
    for probe in chosen.probes:
        for met in probe.meets:
            sides.setdefault((met.kind, met.item), set()).add(met.inside)
    out = {}
    for kind in Covers:
        there = chosen.there[kind] | {p for k, p in sides if k == kind}
        held = [sides.get((kind, p), set()) for p in there]
        out[kind] = sum(len(h) == 2 for h in held), sum(len(h) == 1 for h in held), len(there)
    return out


def _taken(site: Site) -> tuple[TakenAs, ...]:
    found = {
        TakenAs.ACTIVE: bool(site.conditions.active),
        TakenAs.BLOCKED: any(isinstance(d, Switch) and d.spanning_tree for d in site.design.devices),
        TakenAs.LEASES: bool(site.handed),
        TakenAs.LEARNT: any(r.origin == "ospf" for t in site.net.tables.values() for r in t.routes),
        TakenAs.BUNDLES: any(getattr(d, "lags", []) for d in site.design.devices if not isinstance(d, Outside)),
    }
    return tuple(k for k, there in found.items() if there)
