"""A lab built, probes sent through it, and all of it taken away again."""

from __future__ import annotations

import resource
from collections.abc import Iterable, Sequence
from contextlib import ExitStack
from typing import Any

from anabasis.design import Design
from anabasis.design.devices import Endpoint, Outside, Switch
from anabasis.packets.kernel import Namespaces, as_on_a_wire, check_allowed, ruled, set_up, told
from anabasis.packets.lab import Given, Lab, bare, lab_of
from anabasis.packets.probing import TCP, UDP, Answering, Probe, Seen, asker, listeners, wait_for
from anabasis.packets.ruleset import published, ruleset
from anabasis.packets.switching import Wires
from anabasis.packets.tables import Tables

WIRES = "the:wires"
"""No box is called so: names of boxes hold no colon."""
AT_ONCE = 150
"""How many probes are on their way at once."""
QUIET = {
    "ipv6/conf/all/disable_ipv6": "1",
    "ipv6/conf/default/disable_ipv6": "1",
}
PLAIN = {
    "ipv4/conf/all/rp_filter": "0",
    "ipv4/conf/default/rp_filter": "0",
    "ipv6/conf/all/accept_dad": "0",
    "ipv6/conf/default/accept_dad": "0",
    "ipv6/conf/all/accept_ra": "0",
    "ipv6/conf/default/accept_ra": "0",
    "ipv6/conf/default/router_solicitations": "0",
    "ipv6/conf/all/proxy_ndp": "1",
    "ipv6/conf/default/proxy_ndp": "1",
    "ipv4/ping_group_range": "0 2147483647",
    "ipv4/icmp_ratelimit": "0",
}
FORWARDS = {"ipv4/ip_forward": "1", "ipv6/conf/all/forwarding": "1"}


def send(design: Design, given: Given, probes: Sequence[Probe]) -> list[Seen]:
    """Build a design of namespaces, send probes through it, and return what became of each.

    Raises InputRefused where this machine has no namespaces to give; RuntimeError where the kernel does not take what the design is built of.
    """
    check_allowed()
    lab = lab_of(design, given)
    devices = {d.name: d for d in design.devices}
    _more_files()
    services = sorted({(p.protocol, p.number) for p in probes if p.protocol in (TCP, UDP)} | set(_translated(lab)))
    with ExitStack() as held:
        spaces = held.enter_context(Namespaces([WIRES, *lab.boxes]))
        spaces.within(WIRES, lambda: _wire(lab, spaces))
        for name in lab.boxes:
            spaces.within(name, lambda d=devices[name]: _box(lab, d))  # type: ignore[misc]
        held.enter_context(spaces.within(WIRES, lambda: Wires(lab)))
        opened = [s for name in lab.boxes for s in spaces.within(name, lambda: listeners(services))]
        held.enter_context(Answering(opened))
        out: list[Seen] = []
        for k in range(0, len(probes), AT_ONCE):
            out += _asked(spaces, probes[k : k + AT_ONCE])
        # whoever was silent may have been unlucky on a busy machine: once more, by itself
        for k in range(0, len(probes), AT_ONCE):
            again = [n for n in range(k, min(k + AT_ONCE, len(probes))) if out[n] == Seen.SILENT]
            for n, seen in zip(again, _asked(spaces, [probes[n] for n in again]), strict=True):
                out[n] = seen
        return out


def _asked(spaces: Namespaces, probes: Sequence[Probe]) -> list[Seen]:
    by_box: dict[str, list[int]] = {}
    for k, probe in enumerate(probes):
        by_box.setdefault(probe.box, []).append(k)
    begun: list[Any] = [Seen.UNSENT] * len(probes)
    for name, numbers in by_box.items():
        if name in spaces.of:
            sockets = spaces.within(name, lambda mine=numbers: [asker(probes[n]) for n in mine])  # type: ignore[misc]
            for k, one in zip(numbers, sockets, strict=True):
                begun[k] = one
    return wait_for(list(zip(probes, begun, strict=True)))


def _translated(lab: Lab) -> Iterable[tuple[int, int]]:
    for device in lab.design.devices:
        for entry in getattr(device, "nat", []):
            for protocol, low, _ in (lab.words.services([entry.service_to]) or []) if entry.service_to else []:
                if protocol in (TCP, UDP):
                    yield protocol, low


def _wire(lab: Lab, spaces: Namespaces) -> None:
    set_up(QUIET)
    lines = [f"link add {a} type veth peer name {b}" for a, b in lab.cables]
    lines += [
        f"link add {i.tap} type veth peer name {i.dev} netns {spaces.of[i.device]}" for i in lab.interfaces if i.tap
    ]
    ups = [d for pair in lab.cables for d in pair] + [i.tap for i in lab.interfaces if i.tap]
    lines += [f"link set {d} up promisc on" for d in ups]
    told(lines)


def _box(lab: Lab, device: Any) -> None:
    """Set up a box in the namespace of this thread: addresses, routes, policy."""
    set_up(PLAIN | (FORWARDS if _routes(device) else {}))
    mine = lab.of(device.name)
    lines = ["link set lo up"]
    for i in mine:
        if i.tap:
            as_on_a_wire(i.dev)
            lines.append(f"link set {i.dev} up")
        lines += [f"addr replace {a} dev {i.dev} noprefixroute" + (" nodad" if ":" in a else "") for a in i.addresses]
    held = {bare(a) for i in mine for a in i.addresses}
    if isinstance(device, Outside):
        extra = [a for a in lab.given.behind.get(device.name, ()) if a not in held]
        lines += [f"addr replace {a}/{128 if ':' in a else 32} dev lo" + (" nodad" if ":" in a else "") for a in extra]
    for i, a in published(lab, device):
        if ":" in a:
            lines.append(f"-6 neigh add proxy {a} dev {i.dev}")
        elif a not in held:
            held.add(a)
            lines.append(f"addr add {a}/32 dev lo")
    told(lines)
    told(Tables(lab, device).commands())
    ruled(ruleset(lab, device))


def _routes(device: Any) -> bool:
    return not isinstance(device, Endpoint) and (not isinstance(device, Switch) or device.routing)


def _more_files() -> None:
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(hard, max(soft, 16_384)), hard))
