"""Layer 1: cables, and which ports are up."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from anabasis.design.devices import AccessPoint, BridgingBox, Device, Endpoint, Firewall, Outside
from anabasis.design.document import Design
from anabasis.design.notation import parse_end, pointer
from anabasis.design.overlay import OverlayEnd, overlay_ends
from anabasis.design.ports import Port, VirtualPort, association
from anabasis.design.references import mode_of, ssid_names, unit_names
from anabasis.fabric.conditions import Conditions, cable_name, carrying_units
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.wording import Reasoned

Spot = tuple[str, str]
"""A port as cables see it: (box, port), where a box is a unit of a firewall, or a device."""


@dataclass(frozen=True)
class PhysicalPort(Reasoned):
    """One port of one box, and the state of its line."""

    box: str
    device: str
    port: Port
    mode: str
    pointer: str
    far: Spot | None
    cable: str | None
    """Pointer of the cable, if it has one."""
    cause: Cause | None
    """What takes it down; None while it is up."""
    free: bool
    """Nothing is plugged in, and nothing else keeps it down."""
    line: str
    """Its cable by the ends, `a:1--b:2`, as failures name it; empty without one."""

    @property
    def spot(self) -> Spot:
        """Return (box, port)."""
        return self.box, self.port.name


def declared_ports(design: Design) -> Iterator[tuple[int, Device, str, Port, str]]:
    """Yield (index, device, box, port, pointer) for every port of every box; of an SSID one for who is not there yet, and one for each client."""
    joined: dict[Spot, list[str]] = {}
    overlay = overlay_ends(design)
    wireless = {d.name: set(ssid_names(d)) for d in design.devices if isinstance(d, AccessPoint)}
    for cable in design.cables if wireless else ():
        ends = [parse_end(e) for e in cable]
        for near, far in (ends, ends[::-1]):
            if near[1] in wireless.get(near[0], ()):
                joined.setdefault(near, []).append(far[0])
    for d, device in enumerate(design.devices):
        for i, ssid in enumerate(device.ssids if isinstance(device, AccessPoint) else []):
            at = pointer("devices", d, "ssids", i)
            for client in (None, *joined.get((device.name, ssid.name), ())):
                yield d, device, device.name, ssid.as_port(client), at
        virtual = _virtual(device, d, overlay)
        ports = list(enumerate(device.ports))
        for box in unit_names(device):
            if not ports and isinstance(device, Endpoint | Outside):
                yield d, device, box, Port(name="1"), pointer("devices", d)
            for i, port in ports:
                yield d, device, box, port, pointer("devices", d, "ports", i)
            for port, at in virtual:
                yield d, device, box, port, at


def _virtual(device: Device, d: int, overlay: Mapping[str, list[OverlayEnd]]) -> list[tuple[VirtualPort, str]]:
    """Return the ports that stand for the tunnels of a box, for who dials in, and for the other boxes of an overlay, with their pointers."""
    if not isinstance(device, BridgingBox):
        return []
    found = [(t.as_port(), pointer("devices", d, "tunnels", i)) for i, t in enumerate(device.tunnels)]
    found += [(t.as_port(), pointer("devices", d, "remote_access", i)) for i, t in enumerate(device.remote_access)]
    return found + [(end.port, end.at) for end in overlay.get(device.name, ())]


def _tunnelled(
    design: Design, conditions: Conditions
) -> tuple[dict[Spot, Cause | None], dict[Spot, tuple[Spot, str, str]]]:
    """Return what keeps each port of a tunnel down, and where those lead that are up, from the units that carry them."""
    devices = {d.name: (k, d) for k, d in enumerate(design.devices)}

    def spot(device: str, name: str) -> Spot:
        return (carrying_units(devices[device][1], conditions) or unit_names(devices[device][1]))[0], name

    stops: dict[Spot, Cause | None] = {}
    overlay = overlay_ends(design)
    for name, ends in overlay.items():
        for end in ends:
            down = because(Layer.UNDERLAY, Wrong.OVERLAY_DOWN, end.at, device=name, far=end.far[0])
            stops |= {(box, end.port.name): down for box in unit_names(devices[name][1])}
    for k, device in devices.values():
        for port, at in _virtual(device, k, {}):
            down = because(Layer.TUNNEL, Wrong.TUNNEL_DOWN, at, tunnel=port.name, device=device.name)
            stops |= {(box, port.name): down for box in unit_names(device)}
    far = {spot(name, e.port.name): (spot(*e.far), e.at, "") for name, ends in overlay.items() for e in ends}
    for state in conditions.tunnels:
        mine = spot(state.device, state.name)
        stops[mine] = state.cause or None
        leads = state.peer or state.meant
        if leads is not None and not isinstance(devices[leads[0]][1], Outside):
            at = next(
                p
                for port, p in _virtual(devices[state.device][1], devices[state.device][0], overlay)
                if port.name == state.name
            )
            far[mine] = spot(*leads), at, ""
    return stops, far


def physical_ports(design: Design, conditions: Conditions) -> dict[Spot, PhysicalPort]:
    """Return every port of every box with the state of its line.

    A port is up when it is enabled, its box is alive, its cable is whole and the far port is enabled on a living box
    (docs/semantics.md, "Links": "up" is not circular). Cost: linear in ports and cables.
    """
    far: dict[Spot, tuple[Spot, str, str]] = {}
    wireless = {(d.name, s.name) for d in design.devices if isinstance(d, AccessPoint) for s in d.ssids}
    for i, (a, b) in enumerate(design.cables):
        one, two = parse_end(a), parse_end(b)
        name = cable_name((one, two))
        if one in wireless:
            one = one[0], association(one[1], two[0])
        if two in wireless:
            two = two[0], association(two[1], one[0])
        far[one], far[two] = (two, pointer("cables", i), name), (one, pointer("cables", i), name)
    declared = list(_with_offers(design, conditions))
    tunnels, links = _tunnelled(design, conditions)
    far |= links
    stops = {
        (box, port.name): _stop(device, d, box, port, mode_of(port, device), at, conditions)
        or tunnels.get((box, port.name))
        for d, device, box, port, at in declared
    }
    while True:  # an inline pair that follows its link takes more ports down; each round stops one more, or ends
        out = _lines(declared, far, stops, conditions)
        more = {spot: stop for spot, stop in _followers(design, out) if stops[spot] is None}
        if not more:
            return out
        stops |= more


def _with_offers(design: Design, conditions: Conditions) -> Iterator[tuple[int, Device, str, Port, str]]:
    """Yield every port; one of a tunnel that somebody else's network takes leads to what lies behind it there."""
    outsides = {d.name: d for d in design.devices if isinstance(d, Outside)}
    beyond = {
        (state.device, state.name): [p for offer in outsides[leads[0]].offers if offer.name == leads[1] for p in offer.prefixes]
        for state in conditions.tunnels
        if (leads := state.peer or state.meant) is not None and leads[0] in outsides
    }  # fmt: skip
    for d, device, box, port, at in declared_ports(design):
        led = beyond.get((device.name, port.name)) if isinstance(port, VirtualPort) else None
        yield d, device, box, port if led is None else port.model_copy(update={"alone": True, "beyond": led}), at


def _lines(
    declared: Iterable[tuple[int, Device, str, Port, str]],
    far: dict[Spot, tuple[Spot, str, str]],
    stops: Mapping[Spot, Cause | None],
    conditions: Conditions,
) -> dict[Spot, PhysicalPort]:
    ports = {(box, port.name): (port, at) for _, _, box, port, at in declared}
    out: dict[Spot, PhysicalPort] = {}
    for _, device, box, port, at in declared:
        spot = (box, port.name)
        other, cable, name = far.get(spot, (None, None, ""))
        alone = isinstance(port, VirtualPort) and port.alone
        cause = stops[spot] if alone else _line(spot, other, cable, name, at, stops, conditions)
        if cause is None and other and cable:
            cause = _speeds(spot, port, at, cable, other, *ports[other])
        free = other is None and stops[spot] is None and not isinstance(port, VirtualPort)
        out[spot] = PhysicalPort(box, device.name, port, mode_of(port, device), at, other, cable, cause, free, name)
    return out


def label(spot: Spot) -> str:
    """Return `box:port`."""
    return f"{spot[0]}:{spot[1]}"


def _speeds(spot: Spot, mine: Port, at: str, cable: str, other: Spot, theirs: Port, there: str) -> Cause | None:
    """Two fixed speeds that differ make no link; a speed left out is negotiated."""
    if not mine.speed_mbps or not theirs.speed_mbps or mine.speed_mbps == theirs.speed_mbps:
        return None
    values: Values = {"port": label(spot), "mine": mine.speed_mbps, "far": label(other), "theirs": theirs.speed_mbps}
    return because(
        Layer.LINK, Wrong.SPEEDS_DIFFER, f"{at}/speed_mbps", f"{there}/speed_mbps", at, there, cable, values=values
    )


def _followers(design: Design, ports: Mapping[Spot, PhysicalPort]) -> Iterator[tuple[Spot, Cause]]:
    """Yield the ports that an inline pair with `follow_link` takes down with the other end."""
    for d, device in enumerate(design.devices):
        for i, wire in enumerate(device.wires if isinstance(device, Firewall) else []):
            for box in unit_names(device) if wire.follow_link else ():
                for end, other in (wire.ends, wire.ends[::-1]):
                    under = ports[box, end].cause
                    if under is not None:
                        at = pointer("devices", d, "wires", i, "follow_link")
                        values: Values = {"port": f"{box}:{other}", "end": f"{box}:{end}"}
                        yield (box, other), because(Layer.LINK, Wrong.FOLLOWS_LINK, at, under=under, values=values)


def _stop(device: Device, d: int, box: str, port: Port, mode: str, at: str, conditions: Conditions) -> Cause | None:
    here = f"{box}:{port.name}"
    if box in conditions.failed or device.name in conditions.failed:
        return because(Layer.LINK, Wrong.BOX_FAILED, pointer("devices", d), box=box)
    if here in conditions.failed:
        return because(Layer.LINK, Wrong.PORT_FAILED, at, port=here)
    if not port.enabled:
        return because(Layer.LINK, Wrong.DISABLED, f"{at}/enabled", port=here)
    if mode == "off":
        return because(Layer.LINK, Wrong.OFF if port.mode == "off" else Wrong.NO_MODE, at, port=here)
    return None


def _line(
    spot: Spot,
    other: Spot | None,
    cable: str | None,
    name: str,
    at: str,
    stops: Mapping[Spot, Cause | None],
    conditions: Conditions,
) -> Cause | None:
    if stops[spot] is not None:
        return stops[spot]
    if other is None:
        return because(Layer.LINK, Wrong.NO_CABLE, at, port=label(spot))
    if name in conditions.failed:
        return because(Layer.LINK, Wrong.CABLE_BROKEN, cable or at, cable=name)
    return stops[other]
