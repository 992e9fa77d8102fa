"""Link aggregation (IEEE 802.1AX), and the ports as frames see them: single ports and whole bundles."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from anabasis.design.devices import BridgingBox, Device
from anabasis.design.document import Design
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag, Membership, VirtualPort
from anabasis.design.references import mode_of, unit_names
from anabasis.fabric.conditions import Conditions, carrying_units, forwarding_units
from anabasis.fabric.links import PhysicalPort, Spot, label, physical_ports
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.wording import Reasoned


@dataclass(frozen=True)
class LinkPort(Reasoned):
    """A port, or a bundle of ports, of one box, as frames see it."""

    box: str
    device: str
    kind: str
    """Kind of the device."""
    settings: Membership
    mode: str
    pointer: str
    cause: Cause | None
    """What takes it down; None while it is up."""
    peer: Spot | None
    """The port or bundle at the far end; known also while the line is down, if it is cabled at all."""
    members: tuple[PhysicalPort, ...]
    forwarding: bool
    """False on the standby unit of a pair."""

    @property
    def spot(self) -> Spot:
        """Return (box, name)."""
        return self.box, self.settings.name

    @property
    def label(self) -> str:
        """Return `box:name`."""
        return f"{self.box}:{self.settings.name}"

    @property
    def virtual(self) -> bool:
        """Tell whether it stands for a tunnel, or for who dials in: no cable goes to it."""
        return isinstance(self.settings, VirtualPort)

    @property
    def bridges(self) -> bool:
        """Tell whether frames are bridged here."""
        return self.mode == "bridged"


def bundles_with(mine: str, theirs: str) -> bool:
    """Return whether two ends' protocols form a bundle (IEEE 802.1AX clause 6.4: one end at least must speak first)."""
    if "static" in (mine, theirs):
        return mine == theirs
    return "lacp-active" in (mine, theirs)


def link_ports(
    design: Design, conditions: Conditions, physical: dict[Spot, PhysicalPort] | None = None
) -> dict[Spot, LinkPort]:
    """Return every port and bundle as frames see it; members of bundles are inside their bundle only. `physical`: the ports, where they are known."""
    physical = physical if physical is not None else physical_ports(design, conditions)
    devices = {box: (d, device) for d, device in enumerate(design.devices) for box in unit_names(device)}
    owner = {spot: (spot[0], p.port.lag) for spot, p in physical.items() if p.mode == "lag" and p.port.lag}
    lags = {
        (box, lag.name): lag
        for box, (_, device) in devices.items()
        if isinstance(device, BridgingBox)
        for lag in device.lags
    }
    out: dict[Spot, LinkPort] = {}
    for spot, port in physical.items():
        if spot not in owner:
            device = devices[port.box][1]
            peer = owner.get(port.far, port.far) if port.far else None
            cause = port.cause
            if cause is None and peer in lags and port.far:
                there = physical[port.far].pointer
                guilty = (port.pointer, there, port.cable or "", _lag_pointer(devices, peer))
                cause = because(Layer.LINK, Wrong.EXPECTS_BUNDLE, *guilty, far=label(port.far), port=label(spot))
            out[spot] = LinkPort(
                port.box,
                device.name,
                device.kind,
                by_default(device, port.port, port.mode),
                port.mode,
                port.pointer,
                cause,
                peer,
                (port,),
                _forwards(device, port.box, port.mode, conditions),
            )
    for (box, name), lag in lags.items():
        device = devices[box][1]
        members = tuple(p for spot, p in physical.items() if owner.get(spot) == (box, name))
        at = _lag_pointer(devices, (box, name))
        leads = Counter(owner.get(m.far, m.far) for m in members if m.far)
        peer = leads.most_common(1)[0][0] if leads else None
        far = _lag_pointer(devices, peer) if peer in lags else ""
        mode = mode_of(lag, device)
        cause = _Bundle(f"{box}:{lag.name}", lag, mode, at, members, owner, lags, physical).cause(peer, far)
        forwarding = _forwards(device, box, mode, conditions)
        settings = by_default(device, lag, mode)
        out[box, name] = LinkPort(box, device.name, device.kind, settings, mode, at, cause, peer, members, forwarding)
    return out


def by_default(device: Device, port: Membership, mode: str) -> Membership:
    """Return the settings of a port; a bridged one that says nothing of VLANs is in the default VLAN of its box, where that has one."""
    default = device.default_vlan if isinstance(device, BridgingBox) else None
    if (
        default is None
        or mode != "bridged"
        or isinstance(port, VirtualPort)
        or port.pvid is not None
        or port.untagged
        or port.tagged
    ):
        return port
    return port.model_copy(update={"pvid": default, "untagged": [default]})


def _lag_pointer(devices: dict[str, tuple[int, Device]], spot: Spot) -> str:
    d, device = devices[spot[0]]
    return pointer("devices", d, "lags", [x.name for x in device.lags].index(spot[1]))  # type: ignore[union-attr]


def _forwards(device: Device, box: str, mode: str, conditions: Conditions) -> bool:
    """Of a pair that shares its gateways both units route, and the one of group 1 alone bridges, or there would be a loop."""
    units = forwarding_units if mode == "routed" else carrying_units
    return box in units(device, conditions)


@dataclass(frozen=True)
class _Bundle:
    """One bundle while it is decided: all working members lead to one bundle of one peer, and the protocols agree (IEEE 802.1AX)."""

    name: str
    lag: Lag
    mode: str
    at: str
    members: tuple[PhysicalPort, ...]
    owner: dict[Spot, Spot]
    lags: dict[Spot, Lag]
    physical: dict[Spot, PhysicalPort]

    def cause(self, peer: Spot | None, far: str) -> Cause | None:
        """Return what keeps it down. `peer`: where most members lead; `far`: the pointer of the bundle there, if it is one."""
        if not self.lag.enabled:
            return because(Layer.LINK, Wrong.DISABLED, f"{self.at}/enabled", port=self.name)
        if self.mode == "off":
            wrong = Wrong.OFF if self.lag.mode == "off" else Wrong.NO_MODE
            return because(Layer.LINK, wrong, self.at, port=self.name)
        if not self.members:
            return because(Layer.LINK, Wrong.BUNDLE_EMPTY, self.at, port=self.name)
        if peer is None:
            places = (m.pointer for m in self.members)
            return because(Layer.LINK, Wrong.BUNDLE_UNCABLED, *places, self.at, port=self.name)
        if peer not in self.lags:
            return self._one_end(peer)
        theirs = self.lags[peer]
        if not theirs.enabled:
            return because(Layer.LINK, Wrong.DISABLED, f"{far}/enabled", port=label(peer))
        if not bundles_with(self.lag.protocol, theirs.protocol):
            ends = (f"{self.at}/protocol", f"{far}/protocol", self.at, far)
            values: Values = {
                "port": self.name,
                "mine": self.lag.protocol,
                "far": label(peer),
                "theirs": theirs.protocol,
            }
            return because(Layer.LINK, Wrong.PROTOCOLS_DIFFER, *ends, values=values)
        return self._few(peer, theirs, far)

    def _one_end(self, peer: Spot) -> Cause:
        """The far end is no bundle: because its ports are off, or because nobody bundled them."""
        stops = [c for m in self.members if m.far and (c := self.physical[m.far].cause) and c.wrong != Wrong.NO_CABLE]
        if stops and len(stops) == sum(m.far is not None for m in self.members):
            return stops[0]
        ends = (self.physical[m.far].pointer for m in self.members if m.far)
        cables = (m.cable or "" for m in self.members)
        return because(Layer.LINK, Wrong.BUNDLE_ONE_END, *ends, self.at, *cables, port=self.name, far=label(peer))

    def _few(self, peer: Spot, theirs: Lag, far: str) -> Cause | None:
        working = [m for m in self.members if m.up and m.far and self.owner.get(m.far) == peer]
        needed = max(self.lag.min_links, theirs.min_links)
        if len(working) >= needed:
            return None
        values: Values = {"port": self.name, "working": len(working), "needed": needed}
        if needed > len(self.members):
            asks = self.at if self.lag.min_links >= theirs.min_links else far
            return because(Layer.LINK, Wrong.BUNDLE_FEW, f"{asks}/min_links", self.at, far, values=values)
        astray = next((m for m in self.members if m.up and m not in working and m.far), None)
        down = next((m.cause for m in self.members if m.cause is not None), None)
        if down is None and astray is not None and astray.far:
            leads: Values = {
                "member": label(astray.spot),
                "far": label(astray.far),
                "peer": label(peer),
                "port": self.name,
            }
            down = because(Layer.LINK, Wrong.BUNDLE_ASTRAY, astray.pointer, astray.cable or "", self.at, values=leads)
        return because(Layer.LINK, Wrong.BUNDLE_FEW, self.at, under=down, values=values)
