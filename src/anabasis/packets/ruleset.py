"""The policy of one box as a ruleset of nftables: zones, rules, translations, what the box answers, stateless filters.

The order of hooks is that of the packet: filters of the interface, translation of the destination, rules, translation of the source.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from anabasis.design.devices import BridgingBox, Firewall, Outside
from anabasis.design.notation import FAMILY_OF, PRIVATE, parse_span
from anabasis.packets.lab import Interface, Lab, bare
from anabasis.packets.meaning import Services, Spans, address_of, prefixes_of, speaks_of
from anabasis.packets.tables import Tables

ESTABLISHED = "ct state established,related accept"
DISCOVERY = "icmpv6 type { nd-router-solicit, nd-router-advert, nd-neighbor-solicit, nd-neighbor-advert } accept"
NAMES = {6: "tcp", 17: "udp", 132: "sctp"}


def ruleset(lab: Lab, device: Any) -> str:
    """Return the text that `nft -f` reads; empty where a box filters nothing."""
    if isinstance(device, Outside):
        return _outside(device)
    return "\n".join(_Ruleset(lab, device).lines()) if isinstance(device, BridgingBox) else ""


def _outside(device: Outside) -> str:
    if device.accepts_private:
        return ""
    drops = "\n".join(f"    {'ip6' if p.version == 6 else 'ip'} saddr {p} drop" for p in PRIVATE)
    return f"table inet proof {{\n  chain entered {{ type filter hook prerouting priority -150;\n{drops}\n  }}\n}}\n"


def _set(values: list[str]) -> str:
    return values[0] if len(values) == 1 else "{ " + ", ".join(values) + " }"


def _devs(interfaces: list[Interface]) -> str:
    return _set([f'"{i.dev}"' for i in interfaces])


def _span(version: int, low: int, high: int) -> str:
    ends = [str(address_of(version, n)) for n in dict.fromkeys((low, high))]
    return "-".join(ends)


def _merged(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    out: list[tuple[int, int]] = []
    for low, high in sorted(spans):
        if out and low <= out[-1][1] + 1:
            out[-1] = out[-1][0], max(high, out[-1][1])
        else:
            out.append((low, high))
    return out


WORDS = {**{p: (f"{word} dport", 65_535) for p, word in NAMES.items()}, 1: ("icmp type", 255), 58: ("icmpv6 type", 255)}
"""Protocol -> (what tells its services apart, the highest number)."""


def _service(protocol: int, low: int, high: int) -> str:
    word, top = WORDS.get(protocol, ("", 0))
    if not word or (low, high) == (0, top):
        return f"meta l4proto {protocol}"
    return f"{word} {low}" if low == high else f"{word} {low}-{high}"


def matches(sources: Spans | None, targets: Spans | None, services: Services | None) -> Iterator[tuple[int, str]]:
    """Yield (version, what a line asks of a packet), one a family and a service."""
    for version in (4, 6):
        word, ends = "ip" if version == 4 else "ip6", []
        for side, spans in (("saddr", sources), ("daddr", targets)):
            if spans is not None:
                said = [_span(version, low, high) for low, high in _merged(spans[version])]
                ends.append(f"{word} {side} {_set(said)}" if said else "")
        if "" in ends:
            continue
        family = f"meta nfproto ipv{version}"
        for service in [None] if services is None else services:
            if service is None or FAMILY_OF.get(service[0], version) == version:
                yield version, " ".join([family, *ends, *([_service(*service)] if service else [])])


class _Ruleset:
    def __init__(self, lab: Lab, device: BridgingBox) -> None:
        self.lab, self.device, self.words = lab, device, lab.words
        self.interfaces = [i for i in lab.of(device.name) if i.dev != "lo"]
        self.owned = lab.of(device.name)
        kinds = {z.name for z in device.zones if z.kind == "routed"} if isinstance(device, Firewall) else set()
        self.zones: dict[str, list[Interface]] = {}
        for i in self.interfaces:
            if isinstance(device, Firewall) and i.settings.zone in kinds:
                self.zones.setdefault(str(i.settings.zone), []).append(i)
        self.numbers = {z: k for k, z in enumerate(self.zones)}

    def lines(self) -> Iterator[str]:
        """Yield the ruleset."""
        yield "table inet proof {"
        yield from self._entered()
        yield from self._left()
        yield from self._translated("destination", "prerouting", -100)
        yield from self._translated("source", "postrouting", 100)
        if isinstance(self.device, Firewall):
            yield from self._rules(self.device)
        yield from self._forward()
        yield from self._input()
        yield "}"

    def _zoned(self) -> list[Interface]:
        return [i for held in self.zones.values() for i in held]

    # --- stage 1, and the stateless filters of interfaces

    def _entered(self) -> Iterator[str]:
        for f in getattr(self.device, "filters", []):
            yield f"  chain filter_{self._filter(f.name)} {{"
            for e in f.entries:
                if e.enabled:
                    flags = "tcp flags & (ack | rst) != 0 " if e.established else ""
                    for _, said in matches(
                        self.words.addresses(e.sources),
                        self.words.addresses(e.destinations),
                        self.words.services(e.services),
                    ):
                        yield f"    {said} {flags}{'return' if e.action == 'permit' else 'drop'}"
            yield f"    {DISCOVERY}\n    drop\n  }}"
        yield "  chain entered { type filter hook prerouting priority -150;"
        if isinstance(self.device, Firewall):
            stray = [i for i in self.interfaces if i not in self._zoned()]
            if stray:
                yield f"    iifname {_devs(stray)} drop"
        for i in self.interfaces:
            if i.settings.filter_in:
                yield f'    iifname "{i.dev}" jump filter_{self._filter(i.settings.filter_in)}'
        yield "  }"

    def _left(self) -> Iterator[str]:
        yield "  chain left { type filter hook postrouting priority 150;"
        for i in self.interfaces:
            if i.settings.filter_out:
                yield f'    oifname "{i.dev}" jump filter_{self._filter(i.settings.filter_out)}'
        yield "  }"

    def _filter(self, name: str) -> int:
        return [f.name for f in self.device.filters].index(name)

    # --- stages 2 and 6

    def _entries(self) -> list[Any]:
        return list(enumerate(e for e in getattr(self.device, "nat", []) if e.enabled))

    def _side(self, names: list[str]) -> list[Interface]:
        held = self._zoned() if isinstance(self.device, Firewall) else self.interfaces
        if "any" in names:
            return held
        return [i for i in held if (i.settings.zone if isinstance(self.device, Firewall) else i.name) in names]

    def _translated(self, what: str, hook: str, priority: int) -> Iterator[str]:
        yield f"  chain to_{what} {{ type nat hook {hook} priority {priority};"
        for k, entry in self._entries():
            sources, targets = self.words.addresses(entry.sources), self.words.addresses(entry.destinations)
            services = self.words.services(entry.services)
            inner, outer = self._side(entry.from_), self._side(entry.to)
            if what == "destination":
                if (entry.destination_to or entry.service_to) and inner:
                    for version, said in matches(sources, targets, services):
                        done = self._becomes(entry.destination_to, targets, version, "daddr", entry.service_to)
                        if done:
                            yield f"    iifname {_devs(inner)} {said} ct mark set {k + 1} dnat {done}"
                if entry.one_to_one and entry.source_to and outer:
                    back = self.words.addresses([entry.source_to])
                    for version, said in matches(None, back, None):
                        done = self._becomes(" ".join(entry.sources), back, version, "daddr", None)
                        if done:
                            yield f"    iifname {_devs(outer)} {said} dnat {done}"
            elif entry.source_to and inner and outer:
                both = bool(entry.destination_to or entry.service_to)
                mark = f"ct mark {k + 1} " if both else ""
                asked = matches(sources, None if both else targets, None if both else services)
                for version, said in asked:
                    for i in outer if entry.source_to == "interface" else [None]:
                        out = [i] if i is not None else outer
                        done = (
                            i.first(version) or ""
                            if i is not None
                            else self._becomes(entry.source_to, sources, version, "saddr", None)
                        )
                        if done:
                            to = done if done.startswith("ip") else f"{'ip' if version == 4 else 'ip6'} to {done}"
                            yield f"    iifname {_devs(inner)} oifname {_devs(out)} {mark}{said} snat {to}"
        yield "  }"

    def _becomes(self, text: str | None, matched: Spans | None, version: int, side: str, service: str | None) -> str:
        """Return what an address becomes: of a prefix of equal length the host part stays, else the first that is given."""
        port = self.words.services([service]) if service else None
        number = f":{port[0][1]}" if port else ""
        word = "ip" if version == 4 else "ip6"
        if text is None:
            spans = (matched or {}).get(version, [])
            if len(spans) != 1 or spans[0][0] != spans[0][1]:
                return ""
            own = _span(version, *spans[0])
            return f"{word} to [{own}]{number}" if version == 6 else f"{word} to {own}{number}"
        low, high = parse_span(text)
        if low.version != version:
            return ""
        spans = (matched or {}).get(version, [])
        if low != high and len(spans) == 1 and spans[0][1] - spans[0][0] == int(high) - int(low) and not number:
            here, there = (_prefix(version, *s) for s in (spans[0], (int(low), int(high))))
            if here and there:
                return f"{word} prefix to {word} {side} map {{ {here} : {there} }}"
        return f"{word} to [{low}]{number}" if version == 6 and number else f"{word} to {low}{number}"

    # --- stages 3 and 5

    def _rules(self, box: Firewall) -> Iterator[str]:
        for one, a in self.numbers.items():
            for two, b in self.numbers.items():
                yield f"  chain rules_{a}_{b} {{"
                for rule in box.rules:
                    if not speaks_of(rule, one, two):
                        continue
                    does = {"permit": "return", "drop": "drop", "refuse": "reject"}[rule.action]
                    for _, said in matches(
                        self.words.addresses(rule.sources),
                        self.words.addresses(rule.destinations),
                        self.words.services(rule.services),
                    ):
                        yield f"    {said} {does}"
                default = box.same_zone if one == two else box.between_zones
                yield f"    {'return' if default == 'permit' else 'drop'}\n  }}"

    def _forward(self) -> Iterator[str]:
        firewall = isinstance(self.device, Firewall)
        yield f"  chain forward {{ type filter hook forward priority 0; policy {'drop' if firewall else 'accept'};"
        if firewall:
            yield f"    {ESTABLISHED}\n    ct state invalid drop"
            for one, a in self.numbers.items():
                for two, b in self.numbers.items():
                    yield f"    iifname {_devs(self.zones[one])} oifname {_devs(self.zones[two])} jump passes_{a}_{b}"
        elif getattr(self.device, "between_networks", "open") == "closed":
            others = [i for i in self.interfaces if not i.settings.routed_to_others]
            for i in self.interfaces:
                yield f'    iifname "{i.dev}" oifname "{i.dev}" accept'
            if others:
                yield f"    iifname {_devs(others)} drop\n    oifname {_devs(others)} drop"
        yield "  }"
        for a in self.numbers.values() if firewall else ():
            for b in self.numbers.values():
                yield f"  chain passes_{a}_{b} {{ jump rules_{a}_{b}; accept; }}"

    def _input(self) -> Iterator[str]:
        firewall = isinstance(self.device, Firewall)
        # who does not route is a host: it takes what is for the interface it comes in by (the strong model, RFC 1122 section 3.3.4.2)
        across = self.device.answers_across if getattr(self.device, "routing", True) else "never"
        yield f'  chain input {{ type filter hook input priority 0;\n    iifname "lo" accept\n    {ESTABLISHED}\n    {DISCOVERY}'
        for k, own in enumerate(self.owned):
            yield from (f"    {word} daddr {_set(held)} goto own_{k}" for word, held in _by_family(own))
        yield "    drop\n  }"
        lists, tables = {a.name: a for a in self.device.answers}, Tables(self.lab, self.device)
        for k, own in enumerate(self.owned):
            yield f"  chain own_{k} {{"
            for i in self.interfaces:
                if i is own:
                    continue
                if not tables.leads_to(i.vrf, own.vrf):
                    yield f'    iifname "{i.dev}" drop'
                    continue
                here, there = (self.numbers.get(x.settings.zone or "") for x in (i, own))
                if across == "never":
                    yield f'    iifname "{i.dev}" drop'
                elif across == "rules" and firewall and own.dev != "lo":
                    if here is None or there is None:
                        yield f'    iifname "{i.dev}" drop'
                    elif here != there:
                        yield f'    iifname "{i.dev}" jump rules_{here}_{there}'
            held = lists.get(own.settings.answers or "")
            if held is None:
                yield f"    {'drop' if firewall else 'accept'}\n  }}"
                continue
            for _, said in matches(self.words.addresses(held.sources), None, self.words.services(held.services)):
                yield f"    {said} accept"
            yield "    drop\n  }"


def _by_family(interface: Interface) -> Iterator[tuple[str, list[str]]]:
    for version, word in ((4, "ip"), (6, "ip6")):
        held = [bare(a) for a in interface.addresses if (":" in a) == (version == 6)]
        if held:
            yield word, held


def _prefix(version: int, low: int, high: int) -> str:
    whole = prefixes_of(version, low, high)
    return whole[0] if len(whole) == 1 else ""


def published(lab: Lab, device: Any) -> Iterator[tuple[Interface, str]]:
    """Yield addresses that translations of a box stand for, with an interface on whose link it answers for them: those that nobody has."""
    held = {bare(a) for i in lab.interfaces for a in i.addresses}
    sets = _Ruleset(lab, device) if isinstance(device, BridgingBox) else None
    for _, entry in sets._entries() if sets is not None else ():
        sides: list[tuple[Spans | None, list[Interface]]] = []
        if entry.destination_to or entry.service_to:
            sides.append((lab.words.addresses(entry.destinations), sets._side(entry.from_)))  # type: ignore[union-attr]
        if entry.source_to and entry.source_to != "interface":
            low, high = parse_span(entry.source_to)
            whole = (int(low), int(high)) if entry.one_to_one else (int(low), int(low))
            sides.append(({4: [], 6: []} | {low.version: [whole]}, sets._side(entry.to)))  # type: ignore[union-attr]
        for spans, links in sides:
            for version, some in (spans or {}).items():
                for first, last in some:
                    for number in range(first, min(last, first + 255) + 1):
                        address = str(address_of(version, number))
                        if address not in held:
                            yield from ((i, address) for i in links)
