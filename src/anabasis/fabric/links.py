"""Layer 1: cables, and which ports are up."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from anabasis.design.devices import Device, Endpoint, Firewall, Outside
from anabasis.design.document import Design
from anabasis.design.notation import parse_end, pointer
from anabasis.design.ports import Port
from anabasis.design.references import mode_of, unit_names
from anabasis.fabric.conditions import Conditions, cable_name

Spot = tuple[str, str]
"""A port as cables see it: (box, port), where a box is a unit of a firewall, or a device."""


@dataclass(frozen=True)
class PhysicalPort:
    """One port of one box, and the state of its line."""

    box: str
    device: str
    port: Port
    mode: str
    pointer: str
    far: Spot | None
    cable: str | None
    """Pointer of the cable, if it has one."""
    up: bool
    reason: str
    """Why it is down; empty while it is up."""
    blame: str
    """Pointer to what takes it down; its own pointer while it is up."""
    free: bool
    """Nothing is plugged in, and nothing else keeps it down."""

    @property
    def spot(self) -> Spot:
        """Return (box, port)."""
        return self.box, self.port.name


def declared_ports(design: Design) -> Iterator[tuple[int, Device, str, Port, str]]:
    """Yield (index, device, box, port, pointer) for every port of every box."""
    for d, device in enumerate(design.devices):
        ports = list(enumerate(device.ports))
        for box in unit_names(device):
            if not ports and isinstance(device, Endpoint | Outside):
                yield d, device, box, Port(name="1"), pointer("devices", d)
            for i, port in ports:
                yield d, device, box, port, pointer("devices", d, "ports", i)


def physical_ports(design: Design, conditions: Conditions) -> dict[Spot, PhysicalPort]:
    """Return every port of every box with the state of its line.

    A port is up when it is enabled, its box is alive, its cable is whole and the far port is enabled on a living box
    (concepts, sections 2 and 10: "up" is not circular). Cost: linear in ports and cables.
    """
    far: dict[Spot, tuple[Spot, str]] = {}
    for i, (a, b) in enumerate(design.cables):
        one, two = parse_end(a), parse_end(b)
        far[one], far[two] = (two, pointer("cables", i)), (one, pointer("cables", i))
    stops = {
        (box, port.name): _stop(device, box, port, mode_of(port, device), at, conditions)
        for _, device, box, port, at in declared_ports(design)
    }
    while True:  # an inline pair that follows its link takes more ports down; each round stops one more, or ends
        out = _lines(design, far, stops, conditions)
        more = {spot: stop for spot, stop in _followers(design, out) if not stops[spot][0]}
        if not more:
            return out
        stops |= more


def _lines(
    design: Design,
    far: dict[Spot, tuple[Spot, str]],
    stops: Mapping[Spot, tuple[str, str]],
    conditions: Conditions,
) -> dict[Spot, PhysicalPort]:
    ports = {(box, port.name): port for _, _, box, port, _ in declared_ports(design)}
    out: dict[Spot, PhysicalPort] = {}
    for _, device, box, port, at in declared_ports(design):
        spot = (box, port.name)
        other, cable = far.get(spot, (None, None))
        reason, blame = _line(spot, other, cable, at, stops, conditions)
        if not reason and other:
            reason, blame = _speeds(spot, port, other, ports[other], at)
        out[spot] = PhysicalPort(
            box,
            device.name,
            port,
            mode_of(port, device),
            at,
            other,
            cable,
            not reason,
            reason,
            blame or at,
            other is None and not stops[spot][0],
        )
    return out


def _speeds(spot: Spot, mine: Port, other: Spot, theirs: Port, at: str) -> tuple[str, str]:
    """Two fixed speeds that differ make no link; a speed left out is negotiated."""
    if mine.speed_mbps and theirs.speed_mbps and mine.speed_mbps != theirs.speed_mbps:
        said = f"{spot[0]}:{spot[1]} runs at {mine.speed_mbps} Mbit/s, {other[0]}:{other[1]} at {theirs.speed_mbps}"
        return said, at + "/speed_mbps"
    return "", ""


def _followers(design: Design, ports: Mapping[Spot, PhysicalPort]) -> Iterator[tuple[Spot, tuple[str, str]]]:
    """Yield the ports that an inline pair with `follow_link` takes down with the other end."""
    for d, device in enumerate(design.devices):
        for i, wire in enumerate(device.wires if isinstance(device, Firewall) else []):
            for box in unit_names(device) if wire.follow_link else ():
                for end, other in (wire.ends, wire.ends[::-1]):
                    if not ports[box, end].up:
                        reason = f"{box}:{other} follows {box}:{end} down ({ports[box, end].reason})"
                        yield (box, other), (reason, pointer("devices", d, "wires", i, "follow_link"))


def _stop(device: Device, box: str, port: Port, mode: str, at: str, conditions: Conditions) -> tuple[str, str]:
    if box in conditions.failed or device.name in conditions.failed:
        return f"{box} has failed", at.split("/ports/")[0]
    if f"{box}:{port.name}" in conditions.failed:
        return f"{box}:{port.name} has failed", at
    if not port.enabled:
        return f"{box}:{port.name} is disabled", at + "/enabled"
    if mode == "off":
        return f"{box}:{port.name} is off", at
    return "", ""


def _line(
    spot: Spot,
    other: Spot | None,
    cable: str | None,
    at: str,
    stops: Mapping[Spot, tuple[str, str]],
    conditions: Conditions,
) -> tuple[str, str]:
    if stops[spot][0]:
        return stops[spot]
    if other is None:
        return f"{spot[0]}:{spot[1]} has no cable", at
    if cable_name((spot, other)) in conditions.failed:
        return f"the cable {cable_name((spot, other))} is broken", cable or at
    return stops[other]
