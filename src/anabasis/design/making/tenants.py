"""Another tenant like one there is: its instances and tables on every box, its gateways and VLANs; what has to be unique is listed, proposed and checked."""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from ipaddress import ip_address, ip_interface, ip_network
from typing import Any, Literal

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.renaming import check_name
from anabasis.errors import InputRefused, Problem, UnknownPlace, nearest

UniqueKind = Literal[
    "VLAN", "VLAN name", "subnet", "VNI", "target", "distinguisher", "name", "unit", "address", "router id"
]


@dataclass(frozen=True)
class UniqueField:
    """One value that a copy may not share with its original."""

    kind: UniqueKind
    was: str
    proposed: str

    @property
    def key(self) -> str:
        """Return how a person's own value for it is given: `VNI 5010`."""
        return f"{self.kind} {self.was}"


@dataclass(frozen=True)
class CopyTenant:
    """What a person asks for."""

    tenant: str
    name: str = ""
    """Empty = the next that is free: `shells-2`."""
    values: dict[str, str] = field(default_factory=dict)
    """By kind and what it was, `VNI 5010`, what it is to be; left out = as proposed."""


def unique_fields(raw: Tree, wanted: CopyTenant) -> list[UniqueField]:
    """Return what has to be unique, with a value for each: a person's own, else the next that is free.

    Raises UnknownPlace where there is no such tenant, InputRefused for a name or a value that is badly written or taken.
    """
    return _Copy(raw, wanted).fields


def copy_tenant(raw: Tree, wanted: CopyTenant) -> Patch:
    """Return the one edit that adds the tenant. Nothing is cabled to it. Raises as `unique_fields` does."""
    return _Copy(raw, wanted).edit()


class _Copy:
    def __init__(self, raw: Tree, wanted: CopyTenant) -> None:
        self.raw, self.wanted = raw, wanted
        names = list(dict.fromkeys(m["name"] for d in raw.get("devices", []) for m in d.get("mac_vrfs", [])))
        if wanted.tenant not in names:
            close = nearest(wanted.tenant, names)
            raise UnknownPlace(
                [Problem("/tenant", "there is no tenant of this name", repr(wanted.tenant), ", ".join(names), close)]
            )
        taken = {x["name"] for d in raw["devices"] for k in ("mac_vrfs", "vrfs") for x in d.get(k, [])}
        self.name = wanted.name or next(n for k in range(2, 10_000) if (n := f"{wanted.tenant}-{k}") not in taken)
        check_name(self.name)
        if self.name in taken:
            raise InputRefused([Problem("/name", "a tenant or table of this name is there", repr(self.name))])
        self.macs = [(d, m) for d in raw["devices"] for m in d.get("mac_vrfs", []) if m["name"] == wanted.tenant]
        self.vrfs = [(d, v) for d in raw["devices"] for v in d.get("vrfs", []) if v["name"] == wanted.tenant]
        self.gateways = [(d, i) for d in raw["devices"] for i in d.get("vlan_interfaces", []) if self._serves(d, i)]
        self._maps: dict[UniqueKind, dict[str, str]] = {}
        self.fields = list(self._fields())

    def _fields(self) -> Iterator[UniqueField]:
        ids = sorted(
            {s["vlan"] for _, m in self.macs for s in m.get("vlans", [])} | {i["vlan"] for _, i in self.gateways}
        )
        plan = [v for v in self.raw.get("vlans", []) if v["id"] in ids]
        every = [v for v in self.raw.get("vlans", [])]
        used = {str(v["id"]) for v in every} | {str(i) for i in ids}
        start = (max(map(int, used), default=0) // 10 + 1) * 10
        yield from self._all(
            "VLAN", map(str, ids), used, lambda _: (str(n) for n in (*range(start, 4095), *range(2, start)))
        )
        yield from self._all("VLAN name", (v["name"] for v in plan), {v["name"] for v in every}, self._names)
        subnets = [n for v in plan for n in v.get("subnets", [])]
        yield from self._all("subnet", subnets, {n for v in every for n in v.get("subnets", [])}, free_subnets)
        entries = [x for d in self.raw["devices"] for k in ("mac_vrfs", "vrfs") for x in d.get(k, [])]
        mine = [m for _, m in (*self.macs, *self.vrfs)]
        vnis = {str(n) for x in entries for n in (x.get("vni"), *(s["vni"] for s in x.get("vlans", []))) if n}
        own = [str(n) for x in mine for n in (x.get("vni"), *(s["vni"] for s in x.get("vlans", []))) if n]
        yield from self._all("VNI", own, vnis, lambda was: (str(n) for n in range(int(was) + 100, 2**24)))
        targets = {t for x in entries for k in ("import", "export") for t in x.get(k, [])}
        yield from self._all("target", (t for x in mine for t in x.get("export", [])), targets, _numbers)
        rds = {x["rd"] for x in entries if x.get("rd")}
        yield from self._all("distinguisher", (x["rd"] for x in mine if x.get("rd")), rds, _numbers)

    def _serves(self, device: Tree, interface: Tree) -> bool:
        """Tell whether a VLAN interface is the tenant's: in its table, or named as the gateway of a VLAN it stretches."""
        mine = [s for m in device.get("mac_vrfs", []) if m["name"] == self.wanted.tenant for s in m.get("vlans", [])]
        return interface.get("vrf") == self.wanted.tenant or interface["vlan"] in [s.get("irb") for s in mine]

    def _all(
        self, kind: UniqueKind, values: Iterable[str], taken: set[str], free: Callable[[str], Iterator[str]]
    ) -> Iterator[UniqueField]:
        """Yield each value once, with a person's own for it, else the first free one."""
        given: dict[str, str] = self._maps.setdefault(kind, {})
        for was in dict.fromkeys(values):
            own = self.wanted.values.get(f"{kind} {was}", "").strip()
            if own and meets(kind, own, {*taken, *given.values()}):
                proposed = next(x for x in free(was) if not meets(kind, x, {*taken, *given.values()}))
                place = f"/values/{kind} {was}"
                raise InputRefused(
                    [Problem(place, "two tenants would be alike in this", repr(own), "one that is free", proposed)]
                )
            given[was] = own or next(x for x in free(was) if not meets(kind, x, {*taken, *given.values()}))
            yield UniqueField(kind, was, given[was])

    def _names(self, was: str) -> Iterator[str]:
        yield was.replace(self.wanted.tenant, self.name) if self.wanted.tenant in was else f"{self.name}-{was}"
        yield from (f"{was}-{k}" for k in range(2, 10_000))

    def edit(self) -> Patch:
        tree: Tree = copy.deepcopy(self.raw)
        vlans = {int(a): int(b) for a, b in self._maps["VLAN"].items()}
        for entry in [v for v in tree.get("vlans", []) if v["id"] in vlans]:
            own = {"id": vlans[entry["id"]], "name": self._of("VLAN name", entry["name"])}
            more = {"subnets": [self._of("subnet", n) for n in entry["subnets"]]} if "subnets" in entry else {}
            tree["vlans"].append({**copy.deepcopy(entry), **own, **more})
        for device in tree["devices"]:
            for key, made in (("mac_vrfs", self._mac), ("vrfs", self._vrf), ("vlan_interfaces", self._gateway)):
                held = device.get(key, [])
                serving = key == "vlan_interfaces"
                mine = [x for x in held if (self._serves(device, x) if serving else x["name"] == self.wanted.tenant)]
                held += [made(copy.deepcopy(x)) for x in mine]
            if any(m["name"] == self.name for m in device.get("mac_vrfs", [])) and "vlans" in device:
                device["vlans"] += [n for o, n in vlans.items() if o in device["vlans"]]
        return difference(self.raw, tree)

    def _of(self, kind: UniqueKind, was: str) -> str:
        return self._maps[kind].get(was, was)

    def _shared(self, entry: Tree) -> Tree:
        """Give an instance or a table its own name, distinguisher and targets; a target of others stays."""
        said: Tree = {k: [self._of("target", t) for t in entry[k]] for k in ("import", "export") if k in entry}
        own: Tree = {"rd": self._of("distinguisher", entry["rd"])} if entry.get("rd") else {}
        return {**entry, "name": self.name, **own, **said}

    def _mac(self, entry: Tree) -> Tree:
        for held in entry.get("vlans", []):
            held["vlan"], held["vni"] = int(self._of("VLAN", str(held["vlan"]))), int(self._of("VNI", str(held["vni"])))
            if held.get("irb") is not None:
                held["irb"] = held["vlan"]
        return self._shared(entry)

    def _vrf(self, entry: Tree) -> Tree:
        if entry.get("vni"):
            entry["vni"] = int(self._of("VNI", str(entry["vni"])))
        if isinstance(entry.get("advertise"), list):
            entry["advertise"] = [self._of("subnet", p) for p in entry["advertise"]]
        for route in entry.get("routes", []):
            route["to"] = self._of("subnet", route["to"])
            if route.get("via"):
                route["via"] = self._moved(route["via"])
        entry.pop("ospf", None)
        return self._shared(entry)

    def _gateway(self, entry: Tree) -> Tree:
        entry["vlan"] = int(self._of("VLAN", str(entry["vlan"])))
        if entry.get("vrf") == self.wanted.tenant:
            entry["vrf"] = self.name
        moved = [(ip_interface(a), self._moved(a.partition("/")[0])) for a in entry.get("addresses", [])]
        entry["addresses"] = [f"{address}/{was.network.prefixlen}" for was, address in moved]
        return entry

    def _moved(self, address: str) -> str:
        """Return the address at the same place of the subnet that takes another's place; one of no subnet of the tenant stays."""
        old: Any = ip_address(address)
        for was, now in self._maps["subnet"].items():
            net = ip_network(was)
            if net.version == old.version and old in net:
                return str(ip_network(now)[int(old) - int(net.network_address)])
        return address


def meets(kind: UniqueKind, value: str, taken: set[str]) -> bool:
    """Tell whether a value is given already; of a subnet, whether it overlaps one."""
    if kind != "subnet":
        return value in taken
    try:
        net = ip_network(value)
    except ValueError:
        raise InputRefused(
            [Problem("/values", "not a prefix with its host bits zero", repr(value), "such as 10.50.40.0/24")]
        ) from None
    return any(n.version == net.version and n.overlaps(net) for n in map(ip_network, taken))


def free_subnets(was: str) -> Iterator[str]:
    net: Any = ip_network(was)
    for k in range(1, 65_536):
        low = int(net.network_address) + k * net.num_addresses
        if low + net.num_addresses <= 2**net.max_prefixlen:
            yield f"{ip_address(low) if net.version == 4 else type(net.network_address)(low)}/{net.prefixlen}"


def _numbers(was: str) -> Iterator[str]:
    head, _, tail = was.rpartition(":")
    yield from (f"{head}:{int(tail) + 100 * k}" for k in range(1, 600))
    yield from (f"{head}:{n}" for n in range(1, 65_536))
