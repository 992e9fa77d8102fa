"""Layer 1: cables, and which ports are up."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from anabasis.design.devices import Device, Endpoint, Firewall, Outside
from anabasis.design.document import Design
from anabasis.design.notation import parse_end, pointer
from anabasis.design.ports import Port
from anabasis.design.references import mode_of, unit_names
from anabasis.fabric.conditions import Conditions, cable_name
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
    (docs/semantics.md, "Links": "up" is not circular). Cost: linear in ports and cables.
    """
    far: dict[Spot, tuple[Spot, str]] = {}
    for i, (a, b) in enumerate(design.cables):
        one, two = parse_end(a), parse_end(b)
        far[one], far[two] = (two, pointer("cables", i)), (one, pointer("cables", i))
    declared = list(declared_ports(design))
    stops = {
        (box, port.name): _stop(device, d, box, port, mode_of(port, device), at, conditions)
        for d, device, box, port, at in declared
    }
    while True:  # an inline pair that follows its link takes more ports down; each round stops one more, or ends
        out = _lines(declared, far, stops, conditions)
        more = {spot: stop for spot, stop in _followers(design, out) if stops[spot] is None}
        if not more:
            return out
        stops |= more


def _lines(
    declared: Iterable[tuple[int, Device, str, Port, str]],
    far: dict[Spot, tuple[Spot, str]],
    stops: Mapping[Spot, Cause | None],
    conditions: Conditions,
) -> dict[Spot, PhysicalPort]:
    ports = {(box, port.name): (port, at) for _, _, box, port, at in declared}
    out: dict[Spot, PhysicalPort] = {}
    for _, device, box, port, at in declared:
        spot = (box, port.name)
        other, cable = far.get(spot, (None, None))
        cause = _line(spot, other, cable, at, stops, conditions)
        if cause is None and other and cable:
            cause = _speeds(spot, port, at, cable, other, *ports[other])
        free = other is None and stops[spot] is None
        out[spot] = PhysicalPort(box, device.name, port, mode_of(port, device), at, other, cable, cause, free)
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
    at: str,
    stops: Mapping[Spot, Cause | None],
    conditions: Conditions,
) -> Cause | None:
    if stops[spot] is not None:
        return stops[spot]
    if other is None:
        return because(Layer.LINK, Wrong.NO_CABLE, at, port=label(spot))
    name = cable_name((spot, other))
    if name in conditions.failed:
        return because(Layer.LINK, Wrong.CABLE_BROKEN, cable or at, cable=name)
    return stops[other]
