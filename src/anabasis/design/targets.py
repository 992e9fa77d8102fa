"""What the names of a document stand for: every name and number by which a thing is called, and where that thing is."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from typing import Any

from anabasis.design.document import Design
from anabasis.design.mentions import Mention
from anabasis.design.notation import parse_end

OF_A_DEVICE = frozenset(("zone", "vrf", "answers", "filter", "lag", "interface", "port", "line"))
"""Kinds whose names are a device's own."""


class Targets:
    """The things of a plain document, or of its models, by name."""

    def __init__(self, document: dict[str, Any] | Design) -> None:
        """Cost: linear in the things that have a name."""
        self._ends: dict[Any, dict[int, list[str]]] = {}
        """Ends of expectations: name -> how near a meaning is -> what it means"""
        self._at: defaultdict[tuple[str, int | None], dict[Any, list[str]]] = defaultdict(dict)
        for i, vlan in enumerate(_list(document, "vlans")):
            self._add("vlan", None, _get(vlan, "id"), f"/vlans/{i}")
            self._end(_get(vlan, "name"), 1, f"/vlans/{i}")
        for kind in ("addresses", "services"):
            for i, entry in enumerate(_list(document, kind)):
                self._add(kind, None, _get(entry, "name"), f"/{kind}/{i}")
                if kind == "addresses":
                    self._end(_get(entry, "name"), 3, f"/{kind}/{i}")
        for d, device in enumerate(_list(document, "devices")):
            self._device(d, device, f"/devices/{d}")

    def of(self, mention: Mention) -> list[str]:
        """Return the pointers of what a mention names; none for what the document does not hold, several for a name of several things."""
        return self.named(mention.kind, mention.device, mention.value)

    def named(self, kind: str, device: int | None, name: Any) -> list[str]:
        """Return the pointers of what is called so. The end of a cable leans on its port and on its unit."""
        if kind == "end":
            return self._meant(name)
        if kind == "cable-end":
            name = parse_end(name)
        return self._at[kind, device if kind in OF_A_DEVICE else None].get(name, [])

    def _meant(self, name: Any) -> list[str]:
        """An end is read as an endpoint, then a segment (a VLAN, one island of it, an outside), a zone, a set, any device."""
        island = name.rpartition("@")[0] if isinstance(name, str) else ""
        near = self._ends.get(name) or self._ends.get(island) or {}
        return near[min(near)] if near else []

    def _end(self, name: Any, rank: int, at: str) -> None:
        self._ends.setdefault(name, {}).setdefault(rank, []).append(at)

    def names(self, kind: str, device: int | None = None) -> list[Any]:
        """Return every name of a kind, in the order of the document."""
        return list(self._at[kind, device if kind in OF_A_DEVICE else None])

    def _add(self, kind: str, device: int | None, name: Any, at: str) -> None:
        self._at[kind, device].setdefault(name, []).append(at)

    def _device(self, d: int, device: Any, at: str) -> None:
        name = _get(device, "name")
        self._add("device", None, name, at)
        self._end(name, {"endpoint": 0, "outside": 1}.get(_get(device, "kind"), 4), at)
        for kind, key in (("zone", "zones"), ("vrf", "vrfs"), ("answers", "answers"), ("filter", "filters")):
            for i, entry in enumerate(_list(device, key)):
                self._add(kind, d, _get(entry, "name"), f"{at}/{key}/{i}")
                if kind == "zone":
                    self._end(_get(entry, "name"), 2, f"{at}/{key}/{i}")
        boxes = [_get(u, "name") for u in _list(device, "units")] or [name]
        for port, here in _ports(device, at):
            for kind in ("port", "line"):
                self._add(kind, d, port, here)
            for k, box in enumerate(boxes):
                self._add("cable-end", None, (box, port), here)
                if _list(device, "units"):
                    self._add("cable-end", None, (box, port), f"{at}/units/{k}")
        for i, ssid in enumerate(_list(device, "ssids")):
            self._add("cable-end", None, (name, _get(ssid, "name")), f"{at}/ssids/{i}")
        for i, lag in enumerate(_list(device, "lags")):
            for kind in ("lag", "line"):
                self._add(kind, d, _get(lag, "name"), f"{at}/lags/{i}")
        for interface, here in interfaces_of(device, at):
            self._add("interface", d, interface, here)


def interfaces_of(device: Any, at: str) -> Iterator[tuple[str, str]]:
    """Yield (name, pointer) of every interface of a device: `1`, `trunk`, `trunk.110`, `vlan110`, loopbacks."""
    yield from _ports(device, at)
    for i, lag in enumerate(_list(device, "lags")):
        yield _get(lag, "name"), f"{at}/lags/{i}"
    for key in ("ports", "lags"):
        for i, base in enumerate(_list(device, key)):
            for k, sub in enumerate(_list(base, "subinterfaces")):
                yield f"{_get(base, 'name')}.{_get(sub, 'tag')}", f"{at}/{key}/{i}/subinterfaces/{k}"
    for i, entry in enumerate(_list(device, "vlan_interfaces")):
        yield f"vlan{_get(entry, 'vlan')}", f"{at}/vlan_interfaces/{i}"
    for i, entry in enumerate(_list(device, "loopbacks")):
        yield _get(entry, "name"), f"{at}/loopbacks/{i}"
    for key in ("tunnels", "remote_access"):
        for i, entry in enumerate(_list(device, key)):
            yield _get(entry, "name"), f"{at}/{key}/{i}"


def _ports(device: Any, at: str) -> Iterator[tuple[str, str]]:
    ports = _list(device, "ports")
    if not ports and _get(device, "kind") in ("endpoint", "outside"):  # one without ports has one, called 1
        yield "1", at
    for i, port in enumerate(ports):
        yield _get(port, "name"), f"{at}/ports/{i}"


def _get(node: Any, key: str) -> Any:
    return node.get(key) if isinstance(node, dict) else getattr(node, key, None)


def _list(node: Any, key: str) -> list[Any]:
    found = _get(node, key)
    return found if isinstance(found, list) else []
