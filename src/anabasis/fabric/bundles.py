"""Link aggregation (IEEE 802.1AX), and the ports as frames see them: single ports and whole bundles."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from anabasis.design.devices import BridgingBox, Device
from anabasis.design.document import Design
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag, Membership
from anabasis.design.references import mode_of, unit_names
from anabasis.fabric.conditions import Conditions, carrying_units, forwarding_units
from anabasis.fabric.links import PhysicalPort, Spot, physical_ports


@dataclass(frozen=True)
class LinkPort:
    """A port, or a bundle of ports, of one box, as frames see it."""

    box: str
    device: str
    kind: str
    """Kind of the device."""
    settings: Membership
    mode: str
    pointer: str
    up: bool
    reason: str
    blame: str
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
    def bridges(self) -> bool:
        """Tell whether frames are bridged here."""
        return self.mode == "bridged"


def bundles_with(mine: str, theirs: str) -> bool:
    """Return whether two ends' protocols form a bundle (IEEE 802.1AX clause 6.4: one end at least must speak first)."""
    if "static" in (mine, theirs):
        return mine == theirs
    return "lacp-active" in (mine, theirs)


def link_ports(design: Design, conditions: Conditions) -> dict[Spot, LinkPort]:
    """Return every port and bundle as frames see it; members of bundles are inside their bundle only."""
    physical = physical_ports(design, conditions)
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
            up, reason, blame = port.up, port.reason, port.blame
            if up and peer in lags:
                up, reason, blame = (
                    False,
                    f"{_label(port.far)} expects a bundle, {_label(spot)} is a single port",
                    port.pointer,
                )
            out[spot] = LinkPort(
                port.box,
                device.name,
                device.kind,
                port.port,
                port.mode,
                port.pointer,
                up,
                reason,
                blame,
                peer,
                (port,),
                _forwards(device, port.box, port.mode, conditions),
            )
    for (box, name), lag in lags.items():
        d, device = devices[box]
        members = tuple(p for spot, p in physical.items() if owner.get(spot) == (box, name))
        at = pointer("devices", d, "lags", [x.name for x in device.lags].index(name))  # type: ignore[union-attr]
        out[box, name] = _bundle(box, device, lag, at, members, owner, lags, conditions)
    return out


def _forwards(device: Device, box: str, mode: str, conditions: Conditions) -> bool:
    """Of a pair that shares its gateways both units route, and the one of group 1 alone bridges, or there would be a loop."""
    units = forwarding_units if mode == "routed" else carrying_units
    return box in units(device, conditions)


def _label(spot: Spot | None) -> str:
    return f"{spot[0]}:{spot[1]}" if spot else "nothing"


def _bundle(
    box: str,
    device: Device,
    lag: Lag,
    at: str,
    members: tuple[PhysicalPort, ...],
    owner: dict[Spot, Spot],
    lags: dict[Spot, Lag],
    conditions: Conditions,
) -> LinkPort:
    """Decide one bundle: all working members lead to one bundle of one peer, and the protocols agree (concepts, section 2)."""
    leads = Counter(owner.get(m.far, m.far) for m in members if m.far)
    peer = leads.most_common(1)[0][0] if leads else None
    forwarding = _forwards(device, box, mode_of(lag, device), conditions)
    name = f"{box}:{lag.name}"

    def built(up: bool, reason: str, blame: str) -> LinkPort:
        return LinkPort(
            box, device.name, device.kind, lag, mode_of(lag, device), at, up, reason, blame, peer, members, forwarding
        )

    if not lag.enabled:
        return built(False, f"{name} is disabled", at + "/enabled")
    if not members:
        return built(False, f"{name} has no members", at)
    if peer is None:
        return built(False, f"no member of {name} has a cable", at)
    if peer not in lags:
        return built(False, f"{name} is a bundle, {_label(peer)} at the far end is not", at)
    theirs = lags[peer]
    if not theirs.enabled:
        return built(False, f"{_label(peer)} at the far end is disabled", at)
    if not bundles_with(lag.protocol, theirs.protocol):
        return built(
            False, f"{name} is {lag.protocol}, {_label(peer)} is {theirs.protocol}: they never bundle", at + "/protocol"
        )
    working = [m for m in members if m.up and m.far and owner.get(m.far) == peer]
    needed = max(lag.min_links, theirs.min_links)
    if len(working) < needed:
        first = next((m for m in members if not m.up), None)
        reason = first.reason if first else f"{len(working)} of {needed} members lead to {_label(peer)}"
        return built(
            False, f"{name} has {len(working)} of at least {needed} members up: {reason}", first.blame if first else at
        )
    return built(True, "", at)
