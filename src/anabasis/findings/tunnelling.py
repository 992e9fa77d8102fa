"""Findings about tunnels: which are down and why, what their ends carry, and what is weak about them."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Patch
from anabasis.design.devices import BridgingBox
from anabasis.design.filters import is_tunnel, named
from anabasis.design.notation import PROTOCOLS, parse_prefix, pointer
from anabasis.design.tunnels import OVERHEAD, RemoteAccess, Tunnel
from anabasis.fabric import TunnelState
from anabasis.facts import Cause, Says, Wrong
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.mends import switched_on
from anabasis.policy import THERE
from anabasis.site import Site

USUAL_MTU = 1500
"""Bytes of a packet outside, where nothing says otherwise."""
End = tuple[str, str]


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    ends = dict(_ends(site))
    for state in site.conditions.tunnels:
        if state.cause is not None and (state.device, state.name) in ends:
            yield _down(state, state.cause, ends)
    told: set[frozenset[End]] = set()
    for state in site.conditions.tunnels:
        if state.peer in ends and frozenset(((state.device, state.name), state.peer)) not in told:
            told.add(frozenset(((state.device, state.name), state.peer)))
            yield from _selectors(ends, (state.device, state.name), state.peer)
    for end, (tunnel, at) in ends.items():
        yield from _weak(end, tunnel, at)
        if isinstance(tunnel, Tunnel):
            yield from _overlaps(end, tunnel, at)
            yield from _too_long(end, tunnel, at)
    for state in site.conditions.tunnels:
        held = ends.get((state.device, state.name))
        if state.cause is None and held is not None and isinstance(held[0], Tunnel):
            yield from _silenced(site, state, held[0])


def _ends(site: Site) -> Iterator[tuple[End, tuple[Tunnel | RemoteAccess, str]]]:
    for d, device in enumerate(site.design.devices):
        for key in ("tunnels", "remote_access") if isinstance(device, BridgingBox) else ():
            for i, tunnel in enumerate(getattr(device, key)):
                yield (device.name, tunnel.name), (tunnel, pointer("devices", d, key, i))


def _down(state: TunnelState, cause: Cause, ends: dict[End, tuple[Tunnel | RemoteAccess, str]]) -> Finding:
    at = ends[state.device, state.name][1]
    mend = next(_mends(cause), None) or next(switched_on(cause), None)
    return finding(Says.TUNNEL_DOWN, *cause.pointers, at, mend=mend, cause=cause)


def _mends(cause: Cause) -> Iterator[Patch]:
    """Yield the edit that makes two ends agree, or switches one on."""
    root = cause.root
    match root.wrong:
        case Wrong.TUNNEL_OFF:
            yield [{"op": "add", "path": root.guilty[0], "value": True}]
        case Wrong.TUNNEL_PROTOCOL:
            yield [{"op": "add", "path": root.guilty[0], "value": root.value("theirs")}]
        case Wrong.TUNNEL_SECRET:
            yield [{"op": "add", "path": p, "value": "own"} for p in root.guilty[:2]]
        case Wrong.TUNNEL_PEER:
            yield [{"op": "replace", "path": root.guilty[0], "value": root.value("seen")}]


def _selectors(ends: dict[End, tuple[Tunnel | RemoteAccess, str]], one: End, two: End) -> Iterator[Finding]:
    """What one end carries from here, the other has to take as from there (RFC 7296 section 2.9)."""
    (mine, at), (theirs, there) = ends[one], ends[two]
    assert isinstance(mine, Tunnel)
    assert isinstance(theirs, Tunnel)
    if (set(mine.here), set(mine.there)) != (set(theirs.there), set(theirs.here)):
        said = {"one": f"{one[1]} of {one[0]}", "two": f"{two[1]} of {two[0]}"}
        mirror: Patch = [
            {"op": "add", "path": f"{there}/here", "value": list(mine.there)},
            {"op": "add", "path": f"{there}/there", "value": list(mine.here)},
        ]
        yield finding(Says.SELECTORS_UNLIKE, f"{at}/here", f"{there}/there", at, there, mend=mirror, values=said)


def _weak(end: End, tunnel: Tunnel | RemoteAccess, at: str) -> Iterator[Finding]:
    which = {"device": end[0], "tunnel": end[1]}
    if tunnel.secret == "default":
        yield finding(Says.TUNNEL_SECRET_DEFAULT, f"{at}/secret", at, values=which)
    if tunnel.protocol == "pptp":
        yield finding(Says.TUNNEL_PROTOCOL_WEAK, f"{at}/protocol", at, values=which)


def _overlaps(end: End, tunnel: Tunnel, at: str) -> Iterator[Finding]:
    both = [
        (a, b)
        for a in map(parse_prefix, tunnel.here)
        for b in map(parse_prefix, tunnel.there)
        if a.version == b.version and a.overlaps(b)
    ]
    for a, b in both[:1]:
        values = {"device": end[0], "tunnel": end[1], "here": a, "there": b}
        yield finding(Says.TUNNEL_OVERLAPS, f"{at}/here", f"{at}/there", at, values=values)


TOO_BIG = {4: (PROTOCOLS["icmp"], 3), 6: (PROTOCOLS["icmpv6"], 2)}
"""What a box tells who sent a packet that does not fit (RFC 1191 section 4, RFC 8201 section 4)."""


def _silenced(site: Site, state: TunnelState, tunnel: Tunnel) -> Iterator[Finding]:
    """Stateless filters by which the box of a tunnel tells nobody that packets are too long for it."""
    mtu = tunnel.mtu or USUAL_MTU - OVERHEAD.get(tunnel.protocol, 0)
    for i in site.net.of_device[state.device]:
        if i.kind == "tunnel" or i.vrf != (tunnel.vrf or "main") or not i.up or mtu >= USUAL_MTU:
            continue
        for own, key in ((a, k) for a in i.addresses for k in i.filters_out):
            policy = site.policies.stateless.get(key)
            host = int(own.network.network_address) + 1
            told = own.version, int(own.ip), host, TOO_BIG[own.version]
            if policy is None or is_tunnel(key) or policy.decide(*THERE, told)[1] is None:
                continue
            mend: Patch = [
                {
                    "op": "add",
                    "path": f"{policy.pointer}/entries/0",
                    "value": {"services": ["icmp/3", "icmpv6/2"], "action": "permit"},
                }
            ]
            said = {
                "device": state.device,
                "tunnel": state.name,
                "mtu": mtu,
                "filter": named(key),
                "interface": i.label,
            }
            yield finding(Says.FRAGMENTS_UNTOLD, policy.pointer, i.pointer, mend=mend, values=said)
            break


def _too_long(end: End, tunnel: Tunnel, at: str) -> Iterator[Finding]:
    most = USUAL_MTU - OVERHEAD.get(tunnel.protocol, 0)
    if tunnel.mtu is not None and tunnel.mtu > most:
        mend: Patch = [{"op": "replace", "path": f"{at}/mtu", "value": most}]
        values = {"device": end[0], "tunnel": end[1], "mtu": tunnel.mtu, "most": most, "protocol": tunnel.protocol}
        yield finding(Says.TUNNEL_TOO_LONG, f"{at}/mtu", at, mend=mend, values=values)
