"""Bridges in user space, on real frames: IEEE 802.1Q-2022, read anew and shared with nobody, so that it can be a referee.

A device is an element with named ports; a frame that comes in by one leaves by some. Nothing here knows where frames come from.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

TAG_TYPES = {"8100": 0x8100, "88a8": 0x88A8}
GROUP = 0x01
"""The bit of the first octet of a hardware address that says it is a group's (IEEE 802-2014, clause 8.2.2)."""
RESERVED = bytes.fromhex("0180c2000000")[:5]
"""The first five octets of addresses that no bridge forwards (IEEE 802.1Q-2022, table 8-1)."""


@dataclass(frozen=True)
class Frame:
    """One frame: addresses, the tag it carries, and the rest from the type field on."""

    target: bytes
    source: bytes
    tag: int | None
    """The VID; None = without a tag. A priority tag has VID 0."""
    rest: bytes
    tag_type: int = 0x8100

    @classmethod
    def read(cls, raw: bytes) -> Frame | None:
        """Read a frame as it is on the wire; None where it is too short to be one."""
        if len(raw) < 14:
            return None
        kind = int.from_bytes(raw[12:14], "big")
        if kind in TAG_TYPES.values() and len(raw) >= 18:
            return cls(raw[:6], raw[6:12], int.from_bytes(raw[14:16], "big") & 0xFFF, raw[16:], kind)
        return cls(raw[:6], raw[6:12], None, raw[12:])

    def written(self) -> bytes:
        """Return the frame as it is on the wire (clause 9.6)."""
        if self.tag is None:
            return self.target + self.source + self.rest
        return self.target + self.source + self.tag_type.to_bytes(2, "big") + self.tag.to_bytes(2, "big") + self.rest

    def tagged(self, vid: int | None, tag_type: int = 0x8100) -> Frame:
        """Return the same frame with another tag, or without one."""
        return Frame(self.target, self.source, vid, self.rest, tag_type)


@dataclass(frozen=True)
class BridgePort:
    """What a port of a bridge says of VLANs (clause 6.9 and 8.8)."""

    name: str
    pvid: int | None = None
    untagged: frozenset[int] = frozenset()
    tagged: frozenset[int] = frozenset()
    accept: str = "all"
    """all, tagged, untagged: the acceptable frame types (clause 6.9)."""
    ingress_check: bool = True
    isolated: bool = False
    translate: dict[int, int] = field(default_factory=dict)
    """The VID on the wire -> the VLAN inside (clause 6.9, VID translation table)."""
    zones: dict[int | None, str] = field(default_factory=dict)
    """Of a firewall: VLAN -> zone; None = of every other VLAN."""
    tag_type: int = 0x8100
    blocked: bool = False
    inside: bool = False
    """It is the box's own interface in a VLAN: no frame to it or from it crosses between ports."""

    def zone(self, vlan: int) -> str | None:
        """Return the zone of frames of a VLAN."""
        return self.zones.get(vlan, self.zones.get(None))

    def classified(self, frame: Frame) -> int | None:
        """Return the VLAN of a frame that comes in; None = it is dropped (clause 6.9.1)."""
        if frame.tag is not None and frame.tag_type != self.tag_type:
            return None
        bare = frame.tag is None or frame.tag == 0
        if (bare and self.accept == "tagged") or (not bare and self.accept == "untagged"):
            return None
        vlan = self.pvid if bare else self.translate.get(frame.tag or 0, frame.tag)
        if vlan is None or (self.ingress_check and vlan not in self.untagged | self.tagged):
            return None
        return vlan

    def sent(self, frame: Frame, vlan: int) -> Frame | None:
        """Return a frame of a VLAN as it leaves; None where the port is no member (clause 8.6.4, 6.9.2)."""
        if vlan in self.untagged:
            return frame.tagged(None)
        if vlan not in self.tagged:
            return None
        outside = next((wire for wire, inside in self.translate.items() if inside == vlan), vlan)
        return frame.tagged(outside, self.tag_type)


Crossing = Callable[[str | None, str | None, Frame], bool]
"""Whether a frame may pass from a zone to another; None = the port is in no zone."""
Sent = Iterator[tuple[str, Frame]]


class Bridge:
    """A bridge that learns, a VLAN at a time (clause 8.7: independent learning)."""

    def __init__(self, vlans: frozenset[int], ports: list[BridgePort], crossing: Crossing | None = None) -> None:
        self.vlans, self.crossing = vlans, crossing
        self.ports = {p.name: p for p in ports}
        self.learnt: dict[tuple[int, bytes], str] = {}

    def receive(self, name: str, frame: Frame) -> Sent:
        """Yield what leaves, and where."""
        port = self.ports.get(name)
        if port is None or port.blocked or frame.target[:5] == RESERVED:
            return
        vlan = port.classified(frame)
        if vlan is None or vlan not in self.vlans:
            return
        if not frame.source[0] & GROUP:
            self.learnt[vlan, frame.source] = name
        known = None if frame.target[0] & GROUP else self.learnt.get((vlan, frame.target))
        for other in [self.ports[known]] if known in self.ports else self.ports.values():
            if other is port or other.blocked or (port.isolated and other.isolated):
                continue
            out = other.sent(frame, vlan)
            if out is not None and self._lets(port, other, vlan, frame):
                yield other.name, out

    def _lets(self, port: BridgePort, other: BridgePort, vlan: int, frame: Frame) -> bool:
        if self.crossing is None or port.inside or other.inside:
            return True
        return self.crossing(port.zone(vlan), other.zone(vlan), frame)


class Hub:
    """Repeats every frame out of every other port."""

    def __init__(self, ports: list[str]) -> None:
        self.ports = ports

    def receive(self, name: str, frame: Frame) -> Sent:
        """Yield what leaves, and where."""
        yield from ((other, frame) for other in self.ports if other != name)


class InlinePair:
    """What enters one end leaves by the other, where tags and policy let it."""

    def __init__(
        self,
        ends: tuple[str, str],
        tags: frozenset[int | None] | None,
        zones: tuple[str | None, str | None],
        crossing: Crossing,
    ) -> None:
        """`tags`: VIDs that pass, None among them for frames without a tag; None = any."""
        self.ends, self.tags, self.zones, self.crossing = ends, tags, zones, crossing

    def receive(self, name: str, frame: Frame) -> Sent:
        """Yield what leaves, and where."""
        if self.tags is not None and (frame.tag or None) not in self.tags:
            return
        here = self.ends.index(name)
        if self.crossing(self.zones[here], self.zones[1 - here], frame):
            yield self.ends[1 - here], frame


class RoutedPort:
    """A port whose frames go to interfaces of the box: by their tag, or without one."""

    def __init__(self, line: str, interfaces: dict[int | None, str], tag_type: int = 0x8100) -> None:
        """`interfaces`: tag -> the interface; None = frames without a tag."""
        self.line, self.tag_type = line, tag_type
        self.by_tag = interfaces
        self.by_name = {name: tag for tag, name in interfaces.items()}

    def receive(self, name: str, frame: Frame) -> Sent:
        """Yield what leaves, and where."""
        if name == self.line:
            there = self.by_tag.get(frame.tag or None)
            if there is not None and (frame.tag is None or frame.tag_type == self.tag_type):
                yield there, frame.tagged(None)
        elif name in self.by_name:
            yield self.line, frame.tagged(self.by_name[name], self.tag_type)
