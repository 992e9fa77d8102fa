"""DHCP servers and relays (RFC 2131): what each interface hands out, and what is wrong with it (docs/semantics.md, "DHCP and plugging in")."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Network

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.notation import parse_address, parse_span, pointer
from anabasis.design.routes import Dhcp


@dataclass(frozen=True)
class LeaseServer:
    """One DHCP entry of a device."""

    device: str
    interface: str
    mode: str
    pointer: str
    settings: Dhcp

    @property
    def label(self) -> str:
        """Return `device interface`."""
        return f"{self.device} {self.interface}"

    def free(self, taken: frozenset[int], inside: Sequence[IPv4Network]) -> IPv4Address | None:
        """Return the first address it would hand to a host it does not know: of a range inside its subnets, neither held nor reserved."""
        reserved = {int(parse_address(r.address)) for r in self.settings.reservations}
        for low, high in self.ranges(inside):
            address = low
            while address <= high:
                step = self._past_exclusion(address)
                if step == address and address not in taken and address not in reserved:
                    return IPv4Address(address)
                address = max(step, address + 1) if step == address else step
        return None

    def ranges(self, inside: Sequence[IPv4Network]) -> list[tuple[int, int]]:
        """Return the ranges that lie inside some subnets, as numbers."""
        spans = (parse_span(text) for text in self.settings.ranges)
        return [(int(a), int(b)) for a, b in spans if a.version == 4 and any(a in n and b in n for n in inside)]

    def reserved(self, name: str, hardware: str | None) -> IPv4Address | None:
        """Return the address kept for a host: by its hardware address, or by its name where the reservation has none."""
        for entry in self.settings.reservations:
            mine = entry.hardware is None and entry.name == name
            known = entry.hardware is not None and hardware is not None and plain(entry.hardware) == plain(hardware)
            address = parse_address(entry.address)
            if (mine or known) and isinstance(address, IPv4Address):
                return address
        return None

    def _past_exclusion(self, address: int) -> int:
        for low, high in map(parse_span, self.settings.exclude):
            if int(low) <= address <= int(high):
                return int(high) + 1
        return address


def plain(hardware: str) -> str:
    """Return a hardware address without its signs."""
    return hardware.replace("-", "").replace(":", "").lower()


def lease_servers(design: Design, off: bool = False) -> Iterator[LeaseServer]:
    """Yield every DHCP entry that is not off, in document order; `off`: those as well."""
    for d, device in enumerate(design.devices):
        for i, entry in enumerate(device.dhcp if isinstance(device, BridgingBox) else []):
            if off or entry.mode != "off":
                yield LeaseServer(device.name, entry.interface, entry.mode, pointer("devices", d, "dhcp", i), entry)
