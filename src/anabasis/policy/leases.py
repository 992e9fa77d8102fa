"""DHCP servers and relays (RFC 2131): what each interface hands out, and what is wrong with it (concepts, section 8)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address

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

    def free(self, taken: frozenset[int]) -> IPv4Address | None:
        """Return the first address it would hand to a host it does not know."""
        reserved = {int(parse_address(r.address)) for r in self.settings.reservations}
        for low, high in map(parse_span, self.settings.ranges):
            address = int(low)
            while address <= int(high):
                step = self._past_exclusion(address)
                if step == address and address not in taken and address not in reserved and low.version == 4:
                    return IPv4Address(address)
                address = max(step, address + 1) if step == address else step
        return None

    def _past_exclusion(self, address: int) -> int:
        for low, high in map(parse_span, self.settings.exclude):
            if int(low) <= address <= int(high):
                return int(high) + 1
        return address


def lease_servers(design: Design) -> Iterator[LeaseServer]:
    """Yield every DHCP entry that is not off, in document order."""
    for d, device in enumerate(design.devices):
        for i, entry in enumerate(device.dhcp if isinstance(device, BridgingBox) else []):
            if entry.mode != "off":
                yield LeaseServer(device.name, entry.interface, entry.mode, pointer("devices", d, "dhcp", i), entry)
