"""Which part of a document leans on which: the links a person follows from a thing to what it needs, and to what needs it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from anabasis.design.devices import BridgingBox, Device, Firewall, Outside
from anabasis.design.document import Design
from anabasis.design.notation import parse_end, pointer
from anabasis.design.ports import Layer3, Membership
from anabasis.design.references import unit_names
from anabasis.design.routes import Route
from anabasis.design.rules import Nat, Rule


@dataclass(frozen=True)
class Use:
    """`source` leans on `target`; both are JSON Pointers."""

    source: str
    target: str


def uses(design: Design) -> list[Use]:
    """Return every link of a checked document. Cost: linear in its size."""
    return list(_Links(design).all())


class _Links:
    def __init__(self, design: Design) -> None:
        self.design = design
        self.vlans = {v.id: pointer("vlans", i) for i, v in enumerate(design.vlans)}
        self.addresses = {a.name: pointer("addresses", i) for i, a in enumerate(design.addresses)}
        self.services = {s.name: pointer("services", i) for i, s in enumerate(design.services)}

    def all(self) -> Iterator[Use]:
        for kind, sets, known in (
            ("addresses", self.design.addresses, self.addresses),
            ("services", self.design.services, self.services),
        ):
            for i, entry in enumerate(sets):
                yield from _named(pointer(kind, i), entry.members, known)  # type: ignore[attr-defined]
        for d, device in enumerate(self.design.devices):
            yield from self._device(device, pointer("devices", d))
        ports = {
            (box, port.name): pointer("devices", d, "ports", i)
            for d, device in enumerate(self.design.devices)
            for box in unit_names(device)
            for i, port in enumerate(device.ports)
        }
        boxes = {box: pointer("devices", d) for d, x in enumerate(self.design.devices) for box in unit_names(x)}
        for i, cable in enumerate(self.design.cables):
            for end in cable:
                yield Use(pointer("cables", i), ports.get(parse_end(end)) or boxes[parse_end(end)[0]])

    def _device(self, device: Device, at: str) -> Iterator[Use]:
        names = _interfaces(device, at)
        for kind in ("ports", "lags"):
            for i, port in enumerate(getattr(device, kind, [])):
                yield from self._port(device, port, f"{at}/{kind}/{i}", at)
        if isinstance(device, BridgingBox):
            for i, interface in enumerate(device.vlan_interfaces):
                here = f"{at}/vlan_interfaces/{i}"
                yield from _named(here, [interface.vlan], self.vlans)
                yield from _layer3(device, interface, here, at)
            for i, loopback in enumerate(device.loopbacks):
                yield from _layer3(device, loopback, f"{at}/loopbacks/{i}", at)
            for i, lease in enumerate(device.dhcp):
                yield from _named(f"{at}/dhcp/{i}", [lease.interface], names)
            for v, vrf in enumerate(device.vrfs):
                yield from _routes(device, vrf.routes, f"{at}/vrfs/{v}/routes", names, at)
        if isinstance(device, Outside):
            yield from _routes(device, device.routes, f"{at}/routes", names, at)
        if isinstance(device, Firewall):
            yield from self._firewall(device, at, names)

    def _port(self, device: Device, port: Membership, here: str, at: str) -> Iterator[Use]:
        held = dict.fromkeys((*port.untagged, *port.tagged, *([port.pvid] if port.pvid else [])))
        yield from _named(here, held, self.vlans)
        lags = {x.name: f"{at}/lags/{i}" for i, x in enumerate(getattr(device, "lags", []))}
        yield from _named(here, [getattr(port, "lag", None)], lags)
        yield from _layer3(device, port, here, at)
        for k, sub in enumerate(port.subinterfaces):
            yield from _named(f"{here}/subinterfaces/{k}", [sub.tag], self.vlans)
            yield from _layer3(device, sub, f"{here}/subinterfaces/{k}", at)

    def _firewall(self, device: Firewall, at: str, names: dict[str, str]) -> Iterator[Use]:
        zones = _index(device.zones, f"{at}/zones")
        for kind in ("rules", "nat"):
            entries: list[Rule | Nat] = getattr(device, kind)
            for i, entry in enumerate(entries):
                here = f"{at}/{kind}/{i}"
                yield from _named(here, dict.fromkeys((*entry.from_, *entry.to)), zones)
                yield from _named(here, dict.fromkeys((*entry.sources, *entry.destinations)), self.addresses)
                yield from _named(here, entry.services, self.services)
        for i, answers in enumerate(device.answers):
            yield from _named(f"{at}/answers/{i}", answers.sources, self.addresses)
            yield from _named(f"{at}/answers/{i}", answers.services, self.services)
        for i, wire in enumerate(device.wires):
            yield from _named(f"{at}/wires/{i}", wire.ends, names)
        if device.failover:
            yield from _named(f"{at}/failover", (*device.failover.heartbeats, *device.failover.watch), names)


def _index(entries: Iterable[object], at: str) -> dict[str, str]:
    return {entry.name: f"{at}/{i}" for i, entry in enumerate(entries)}  # type: ignore[attr-defined]


def _named(here: str, names: Iterable[object], known: dict[str, str] | dict[int, str]) -> Iterator[Use]:
    for name in names:
        if name in known:
            yield Use(here, known[name])  # type: ignore[index]


def _layer3(device: Device, interface: Layer3, here: str, at: str) -> Iterator[Use]:
    for key, kind in (("zone", "zones"), ("answers", "answers"), ("vrf", "vrfs")):
        yield from _named(here, [getattr(interface, key)], _index(getattr(device, kind, []), f"{at}/{kind}"))


def _routes(device: Device, routes: list[Route], here: str, names: dict[str, str], at: str) -> Iterator[Use]:
    vrfs = _index(getattr(device, "vrfs", []), f"{at}/vrfs")
    for i, route in enumerate(routes):
        yield from _named(f"{here}/{i}", [route.interface], names)
        yield from _named(f"{here}/{i}", [route.vrf], vrfs)


def _interfaces(device: Device, at: str) -> dict[str, str]:
    """Return pointer by interface name: `1`, `trunk`, `trunk.110`, `vlan110`, loopbacks."""
    out: dict[str, str] = {}
    for kind in ("ports", "lags"):
        for i, port in enumerate(getattr(device, kind, [])):
            out[port.name] = f"{at}/{kind}/{i}"
            out |= {
                f"{port.name}.{s.tag}": f"{at}/{kind}/{i}/subinterfaces/{k}" for k, s in enumerate(port.subinterfaces)
            }
    out |= {f"vlan{v.vlan}": f"{at}/vlan_interfaces/{i}" for i, v in enumerate(getattr(device, "vlan_interfaces", []))}
    return out | _index(getattr(device, "loopbacks", []), f"{at}/loopbacks")
