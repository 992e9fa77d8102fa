"""Every place of a plain document where a thing is named by another: what renaming and removing have to visit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from anabasis.design.edits import Tree


@dataclass(frozen=True)
class Mention:
    """One name (or VLAN number) inside a list or under a key."""

    kind: str
    """`vlan`, `addresses`, `services`, `zone`, `vrf`, `answers`, `lag`, `interface`, `box` (one end of a cable) or `end` of an expectation."""
    device: int | None
    """Whose: names of zones, VRFs, ports and so on are a device's own."""
    holder: Any
    key: str | int
    owner: str
    """The pointer of the thing that leans on it."""

    @property
    def value(self) -> Any:
        """Return what is written there."""
        return self.holder[self.key]

    def become(self, new: Any) -> None:
        """Write another name there."""
        self.holder[self.key] = new


def mentions(tree: Tree) -> Iterator[Mention]:
    """Yield every mention in a document."""
    for kind in ("addresses", "services"):
        for i, entry in enumerate(tree.get(kind, [])):
            yield from _list(kind, None, entry, "members", f"/{kind}/{i}")
    for i, cable in enumerate(tree.get("cables", [])):
        for k in range(len(cable)):
            yield Mention("box", None, cable, k, f"/cables/{i}")
    for i, entry in enumerate(tree.get("expectations", [])):
        for key in ("from", "to", "through"):
            if key in entry:
                yield Mention("end", None, entry, key, f"/expectations/{i}")
        yield from _list("services", None, entry, "services", f"/expectations/{i}")
    for d, device in enumerate(tree.get("devices", [])):
        yield from _device(d, device, f"/devices/{d}")


def _list(kind: str, device: int | None, entry: Tree, key: str, owner: str) -> Iterator[Mention]:
    values = entry.get(key)
    for k in range(len(values) if isinstance(values, list) else 0):
        yield Mention(kind, device, values, k, owner)


def _one(kind: str, device: int | None, entry: Tree, key: str, owner: str) -> Iterator[Mention]:
    if entry.get(key) is not None:
        yield Mention(kind, device, entry, key, owner)


def _device(d: int, device: Tree, at: str) -> Iterator[Mention]:
    yield from _list("vlan", d, device, "vlans", at)
    for kind in ("ports", "lags", "vlan_interfaces", "loopbacks"):
        for i, entry in enumerate(device.get(kind, [])):
            yield from _interface(d, entry, f"{at}/{kind}/{i}")
    routes = [(f"{at}/routes/{i}", r) for i, r in enumerate(device.get("routes", []))]
    for v, vrf in enumerate(device.get("vrfs", [])):
        routes += [(f"{at}/vrfs/{v}/routes/{i}", r) for i, r in enumerate(vrf.get("routes", []))]
    for here, route in routes:
        yield from _one("interface", d, route, "interface", here)
        yield from _one("vrf", d, route, "vrf", here)
    for i, entry in enumerate(device.get("dhcp", [])):
        yield from _one("interface", d, entry, "interface", f"{at}/dhcp/{i}")
    for kind in ("rules", "nat"):
        for i, entry in enumerate(device.get(kind, [])):
            yield from _policy(d, entry, f"{at}/{kind}/{i}")
    for i, entry in enumerate(device.get("answers", [])):
        yield from _list("services", d, entry, "services", f"{at}/answers/{i}")
        yield from _list("addresses", d, entry, "sources", f"{at}/answers/{i}")
    for i, entry in enumerate(device.get("wires", [])):
        yield from _list("interface", d, entry, "ends", f"{at}/wires/{i}")
        yield from _list("vlan", d, entry, "tags", f"{at}/wires/{i}")
    for key in ("heartbeats", "watch"):
        yield from _list("interface", d, device.get("failover") or {}, key, f"{at}/failover")


def _interface(d: int, entry: Tree, here: str) -> Iterator[Mention]:
    for key in ("untagged", "tagged"):
        yield from _list("vlan", d, entry, key, here)
    for key in ("pvid", "tag", "vlan"):
        yield from _one("vlan", d, entry, key, here)
    for wire in list(entry.get("translate") or {}):
        yield Mention("vlan", d, entry["translate"], wire, here)
    for key in ("zone", "vrf", "answers", "lag"):
        yield from _one(key, d, entry, key, here)
    for k, sub in enumerate(entry.get("subinterfaces", [])):
        yield from _interface(d, sub, f"{here}/subinterfaces/{k}")


def _policy(d: int, entry: Tree, here: str) -> Iterator[Mention]:
    for key in ("from", "to"):
        yield from _list("zone", d, entry, key, here)
    for key in ("sources", "destinations"):
        yield from _list("addresses", d, entry, key, here)
    yield from _list("services", d, entry, "services", here)
    yield from _one("services", d, entry, "service_to", here)
