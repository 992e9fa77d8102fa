"""Another VLAN like one there is: carried on the same trunks, with a gateway, leases and a place in zone and routing like its; what has to be unique is listed."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass, field
from ipaddress import ip_network
from typing import Any

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.tenants import UniqueField, free_subnets, meets
from anabasis.design.readdressing import Readdressed
from anabasis.design.renaming import check_name
from anabasis.errors import InputRefused, Problem, UnknownPlace, nearest


@dataclass(frozen=True)
class CopySegment:
    """What a person asks for."""

    vlan: int
    name: str = ""
    """Empty = the next that is free: `keepers-2`."""
    values: dict[str, str] = field(default_factory=dict)
    """By kind and what it was, `subnet 10.64.130.0/24`, what it is to be; left out = as proposed."""


def segment_fields(raw: Tree, wanted: CopySegment) -> list[UniqueField]:
    """Return what has to be unique, with a value for each: a person's own, else the next that is free.

    Raises UnknownPlace where the plan has no such VLAN, InputRefused for a name or a value that is badly written or taken.
    """
    return _Copy(raw, wanted).fields


def copy_segment(raw: Tree, wanted: CopySegment) -> Patch:
    """Return the one edit. No access port goes over to it, and no rule speaks of it but by its zone. Raises as `segment_fields` does."""
    return _Copy(raw, wanted).edit()


class _Copy:
    def __init__(self, raw: Tree, wanted: CopySegment) -> None:
        self.raw, self.wanted = raw, wanted
        plan = raw.get("vlans", [])
        ids = [str(v["id"]) for v in plan]
        entry = next((v for v in plan if v["id"] == wanted.vlan), None)
        if entry is None:
            close = nearest(str(wanted.vlan), ids)
            raise UnknownPlace(
                [Problem("/vlan", "the plan has no such VLAN", str(wanted.vlan), ", ".join(ids[:14]), close)]
            )
        self.entry: Tree = entry
        names = {v["name"] for v in plan}
        base = entry["name"].rstrip("0123456789").rstrip("-")
        self.name = wanted.name or next(n for k in range(2, 10_000) if (n := f"{base}-{k}") not in names)
        check_name(self.name)
        if self.name in names:
            raise InputRefused([Problem("/name", "a VLAN of this name is there", repr(self.name))])
        self.number = self._number({v["id"] for v in plan})
        self.nets = dict(self._nets([s for v in plan for s in v.get("subnets", [])]))
        self.fields = [
            UniqueField("VLAN", str(wanted.vlan), str(self.number)),
            UniqueField("VLAN name", entry["name"], self.name),
            *(UniqueField("subnet", was, now) for was, now in self.nets.items()),
        ]

    def _own(self, key: str) -> str:
        return self.wanted.values.get(key, "").strip()

    def _number(self, used: set[int]) -> int:
        key = f"VLAN {self.wanted.vlan}"
        own = self._own(key)
        free = next(n for n in (*range(self.wanted.vlan + 1, 4095), *range(2, self.wanted.vlan)) if n not in used)
        if own and not (
            own.isascii() and own.isdigit() and len(own) < 5 and 1 <= int(own) <= 4094 and int(own) not in used
        ):
            raise InputRefused(
                [
                    Problem(
                        f"/values/{key}",
                        "no VLAN that is free has this number",
                        repr(own),
                        "2 to 4094, none of the plan's",
                        str(free),
                    )
                ]
            )
        return int(own) if own else free

    def _nets(self, taken: list[str]) -> Iterator[tuple[str, str]]:
        given: set[str] = set()
        for was in self.entry.get("subnets", []):
            key = f"subnet {was}"
            own = self._own(key)
            free = next(n for n in free_subnets(was) if not meets("subnet", n, {*taken, *given}))
            if own and meets("subnet", own, {*taken, *given}):
                raise InputRefused(
                    [
                        Problem(
                            f"/values/{key}",
                            "two VLANs would be alike in this",
                            repr(own),
                            "a subnet that is free",
                            free,
                        )
                    ]
                )
            if own and ip_network(own).num_addresses < ip_network(was).num_addresses:
                raise InputRefused(
                    [
                        Problem(
                            f"/values/{key}",
                            "it has no place for every host",
                            repr(own),
                            f"a /{ip_network(was).prefixlen}",
                            free,
                        )
                    ]
                )
            given.add(own or free)
            yield was, own or free

    def edit(self) -> Patch:
        tree: Tree = copy.deepcopy(self.raw)
        own: Tree = {"id": self.number, "name": self.name}
        own |= {"subnets": list(self.nets.values())} if "subnets" in self.entry else {}
        plan = tree["vlans"]
        at = next(k for k, v in enumerate(plan) if v["id"] == self.wanted.vlan)
        plan.insert(at + 1, {**copy.deepcopy(self.entry), **own})
        for device in tree.get("devices", []):
            self._on(device)
        return difference(self.raw, tree)

    def _on(self, device: Tree) -> None:
        old, new = self.wanted.vlan, self.number
        if isinstance(device.get("vlans"), list) and old in device["vlans"]:
            device["vlans"].insert(device["vlans"].index(old) + 1, new)
        renamed: dict[str, str] = {}
        for line in (p for key in ("ports", "lags") for p in device.get(key, [])):
            if isinstance(line.get("tagged"), list) and old in line["tagged"]:
                line["tagged"].insert(line["tagged"].index(old) + 1, new)
            for k, sub in enumerate(list(line.get("subinterfaces", []))):
                if sub["tag"] == old:
                    line["subinterfaces"].insert(k + 1, self._like(sub) | {"tag": new})
                    renamed[f"{line['name']}.{old}"] = f"{line['name']}.{new}"
        for k, interface in enumerate(list(device.get("vlan_interfaces", []))):
            if interface["vlan"] == old:
                device["vlan_interfaces"].insert(k + 1, self._like(interface) | {"vlan": new})
                renamed[f"vlan{old}"] = f"vlan{new}"
        self._lean(device, renamed)

    def _lean(self, device: Tree, renamed: dict[str, str]) -> None:
        """Have leases, OSPF and the watch list speak of the new interface as of the old."""
        for lease in [
            x
            for x in (device.get("dhcp") if isinstance(device.get("dhcp"), list) else []) or []
            if x["interface"] in renamed
        ]:
            made = {k: v for k, v in self._moved(copy.deepcopy(lease)).items() if k != "reservations"}
            device["dhcp"].append(made | {"interface": renamed[lease["interface"]]})
        for vrf in device.get("vrfs", []):
            held = (vrf.get("ospf") or {}).get("interfaces", [])
            held += [x | {"interface": renamed[x["interface"]]} for x in list(held) if x["interface"] in renamed]
        pair = device.get("failover") or {}
        pair.get("watch", []).extend(renamed[w] for w in list(pair.get("watch", [])) if w in renamed)

    def _like(self, interface: Tree) -> Tree:
        return self._moved(copy.deepcopy(interface))  # type: ignore[no-any-return]

    def _moved(self, node: Any) -> Any:
        """Return a part with addresses of the old subnets as the same hosts of the new ones."""
        for was, now in self.nets.items():
            node = Readdressed(ip_network(was), ip_network(now)).value(node)
        return node
