"""What every router learns: routes inside its areas, from other areas, and from outside (RFC 2328 sections 11, 12.4 and 16; RFC1583Compatibility off)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from ipaddress import ip_network
from typing import Literal, TypeVar

from anabasis.design.notation import Address, Network, parse_area, pointer
from anabasis.design.routes import Ospf as Settings
from anabasis.fabric import Segments
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.once import once
from anabasis.routing.interfaces import L3Interface
from anabasis.routing.ospf.areas import Area, Hops, Node, Reached, areas_of
from anabasis.routing.ospf.neighbours import (
    Hellos,
    Met,
    Router,
    Speaker,
    Unlike,
    candidates,
    meant,
    speakers_of,
    unlike,
)

Kind = Literal["intra-area", "inter-area", "external-1", "external-2"]
K = TypeVar("K", bound=Hashable)
"""What borders tell of: a prefix, or a router that knows the outside."""
BACKBONE = 0
INFINITY = 0xFFFFFF
"""LSInfinity (appendix B): nothing that far away is announced."""


@dataclass(frozen=True)
class Learnt:
    """One route that a router has learnt."""

    to: Network
    kind: Kind
    cost: int
    """Its cost; of external type 2 the metric it was announced with."""
    hops: Hops


@dataclass(frozen=True)
class Known:
    """What the table of a router holds without the protocol: what may be redistributed."""

    origin: Literal["connected", "static"]
    to: Network
    interface: str | None
    hop: Address | None


@dataclass(frozen=True)
class _Entry:
    """A way to a prefix, or to a router that knows the outside."""

    kind: Kind
    cost: int
    hops: Hops
    area: int


@dataclass(frozen=True)
class _Outer:
    """A prefix that a router brings in from outside."""

    to: Network
    type: Literal[1, 2]
    metric: int
    forward: Address | None
    """The forwarding address (section 12.4.4.1): the next hop itself, where it stands on a network of the domain."""


class Ospf:
    """The whole domain under given conditions."""

    def __init__(
        self,
        segments: Segments,
        interfaces: list[L3Interface],
        known: Mapping[Router, list[Known]],
        hellos: Hellos,
        forced: Mapping[tuple[str, str], tuple[str, str]] | None = None,
    ) -> None:
        """`known`: what tables hold without it. `forced`: interface -> another that is its neighbour whatever speaks against it, and says what it says."""
        self._inputs = segments, interfaces, known, hellos
        self.asked: dict[tuple[Met, Address, Address], Cause | None] = {}
        """What was asked of filters on the way between routers, and what they said."""
        self._segments, self._known = segments, known
        self._forced = dict(forced or {})
        self.speakers = _as_told(speakers_of(segments, interfaces), self._forced)
        self.routers = list(dict.fromkeys(s.router for s in self.speakers))
        self.unlike: list[Unlike] = []
        """Pairs that should be neighbours and are not."""
        self.adjacent: dict[int, list[tuple[Speaker, Speaker]]] = {}
        for version in (4, 6):
            self.adjacent[version] = list(self._pairs(version, hellos))
        written = [
            ((d.name, v.name), v.ospf, pointer("devices", k, "vrfs", n, "ospf"))
            for k, d in enumerate(segments.fabric.design.devices)
            for n, v in enumerate(getattr(d, "vrfs", []))
            if v.ospf is not None
        ]
        self._settings = {router: settings for router, settings, _ in written}
        self.at = {router: at for router, _, at in written}
        """Router -> its settings, as a pointer."""

    def with_forced(self, pairs: Iterable[tuple[Speaker, Speaker]]) -> Ospf:
        """Return the domain as it would be if the first of each pair said what the second says, and they were neighbours."""
        segments, interfaces, known, hellos = self._inputs
        return Ospf(segments, interfaces, known, hellos, {one.key: two.key for one, two in pairs})

    def _pairs(self, version: int, hellos: Hellos) -> Iterator[tuple[Speaker, Speaker]]:
        for one, two in candidates(self._segments, self.speakers, version):
            if self._forced.get(one.key) == two.key or self._forced.get(two.key) == one.key:
                yield one, two
                continue
            cause = unlike(self._segments, one, two, version, self._noting(hellos))
            if cause is None:
                yield one, two
            elif meant(self._segments, one, two, cause):
                self.unlike.append(Unlike(one, two, version, cause))

    def _noting(self, hellos: Hellos) -> Hellos:
        def ask(crossing: Met, source: Address, target: Address) -> Cause | None:
            self.asked[crossing, source, target] = answer = hellos(crossing, source, target)
            return answer

        return ask

    def hears_as(self, hellos: Hellos) -> bool:
        """Tell whether filters on the way between routers still say what they said: then rules alone have changed, and nothing of this."""
        return all(hellos(*question) == answer for question, answer in self.asked.items())

    def knows_as(self, known: Mapping[Router, list[Known]]) -> bool:
        """Tell whether what some tables hold now is, as far as anything of it is told to others, what they held."""
        return all(
            self._told_of(r, known.get(r, [])) == self._told_of(r, self._known.get(r, []))
            for r in self.routers
            if r in known
        )

    def _told_of(self, router: Router, known: list[Known]) -> list[Known]:
        settings = self.settings(router)
        origins = {r.from_ for r in settings.redistribute}
        default = settings.announce_default != "never"
        return [k for k in known if k.origin == "connected" or k.origin in origins or (default and k.to.prefixlen == 0)]

    @once
    def learnt(self) -> dict[Router, list[Learnt]]:
        """Return what each router learns, in both families."""
        out: dict[Router, list[Learnt]] = {r: [] for r in self.routers}
        for version in (4, 6):
            for router, routes in _Family(self, version).learnt().items():
                out[router] += routes
        return out

    def alive(self, speaker: Speaker) -> bool:
        """Tell whether an interface is up, or taken for up."""
        return speaker.interface.up or any(speaker.key in pair for pair in self._forced.items())

    def tells(self, router: Router, prefix: Network) -> bool:
        """Tell whether a router announces a prefix as one it is connected to."""
        mine = [s for s in self.speakers if s.router == router]
        spoken = any(a.network == prefix for s in mine for a in s.interface.addresses)
        brings = any(r.from_ == "connected" for r in self.settings(router).redistribute)
        return spoken or (brings and any(k.origin == "connected" and k.to == prefix for k in self.held(router)))

    def keeps_default(self, router: Router, version: int) -> Cause | None:
        """Return that a router has a default route and announces it to nobody; None where it has none, or announces it."""
        known = any(k.to.prefixlen == 0 and k.to.version == version for k in self.held(router))
        if not known or self.settings(router).announce_default != "never":
            return None
        at = f"{self.at[router]}/announce_default"
        return because(Layer.ROUTE, Wrong.DEFAULT_UNTOLD, at, device=router[0])

    def untold(self, interface: L3Interface, prefix: Network) -> Cause:
        """Return that a router announces to nobody what it is connected to; `area`: where the rest of it speaks."""
        router = interface.device, interface.vrf
        area = next((s.settings.area for s in self.speakers if s.router == router), "0")
        said: Values = {"device": interface.device, "subnet": str(prefix), "interface": interface.name, "area": area}
        return because(Layer.ROUTE, Wrong.PREFIX_UNTOLD, self.at[router], interface.pointer, values=said)

    def settings(self, router: Router) -> Settings:
        """Return what a router is told."""
        told: Settings = self._settings[router]
        return told

    def held(self, router: Router) -> list[Known]:
        """Return what a router knows without the protocol."""
        return self._known.get(router, [])


def components(domain: Ospf, area: int) -> list[list[Speaker]]:
    """Return the parts that an area has fallen into, in the family that has most neighbours: each its speakers, in document order."""
    up = [s for s in domain.speakers if s.area == area and s.interface.up]
    part = {s.router: s.router for s in up}

    def find(router: Router) -> Router:
        while part[router] != router:
            router = part[router]
        return router

    for one, two in (p for pairs in domain.adjacent.values() for p in pairs if p[0].area == area):
        if one.router in part and two.router in part:
            part[find(one.router)] = find(two.router)
    out: dict[Router, list[Speaker]] = {}
    for s in up:
        out.setdefault(find(s.router), []).append(s)
    return list(out.values())


def _as_told(speakers: list[Speaker], forced: Mapping[tuple[str, str], tuple[str, str]]) -> list[Speaker]:
    """Return speakers of which some say what others say: area, kind of link, and whether they speak at all."""
    of = {s.key: s for s in speakers}

    def told(s: Speaker) -> Speaker:
        other = of.get(forced.get(s.key, s.key), s)
        meets = other is not s or s.key in forced.values()
        like = {"network": other.settings.network} | ({"passive": False, "priority": 1} if meets else {})
        return replace(s, area=other.area, stub=other.stub, settings=s.settings.model_copy(update=like)) if meets else s

    return [told(s) for s in speakers]


class _Family:
    """The domain in one address family."""

    def __init__(self, domain: Ospf, version: int) -> None:
        self.domain, self.version = domain, version
        up = [s for s in domain.speakers if domain.alive(s)]
        self.areas: dict[int, Area] = areas_of(up, domain.adjacent[version], version)
        self.of: dict[Router, dict[int, bool]] = defaultdict(dict)
        """Router -> area -> whether it takes it for a stub."""
        for s in up:
            self.of[s.router][s.area] = s.stub
        self.speaking: dict[tuple[Router, str], Speaker] = {(s.router, s.interface.name): s for s in up}
        self.paths: dict[tuple[Router, int], dict[Node, Reached]] = {
            (router, area): self.areas[area].paths(router) for router, areas in self.of.items() for area in areas
        }

    def learnt(self) -> dict[Router, list[Learnt]]:
        inside = {r: self._intra(r) for r in self.of}
        across = self._inter(inside)
        own = {r: {**across[r], **inside[r]} for r in self.of}
        outside = self._outside()
        rims = self._rims(outside)
        out: dict[Router, list[Learnt]] = {}
        for router in self.of:
            routes = [Learnt(p, e.kind, e.cost, e.hops) for p, e in own[router].items() if e.hops]
            mine = {o.to for o in outside.get(router, ())}
            for prefix, (kind, cost, hops) in self._external(router, own[router], outside, rims[router]).items():
                if prefix not in own[router] and prefix not in mine:
                    routes.append(Learnt(prefix, kind, cost, hops))
            out[router] = routes
        return out

    # inside an area (section 16.1)

    def _intra(self, router: Router) -> dict[Network, _Entry]:
        """Return prefixes of the router's areas; those it stands in itself have no hop."""
        out: dict[Network, _Entry] = {}
        for area in sorted(self.of[router]):
            mine: dict[Network, _Entry] = {}
            for node, reached in self.paths[router, area].items():
                for prefix, length in self.areas[area].prefixes.get(node, {}).items():
                    cost, known = reached.cost + length, mine.get(prefix)
                    hops = frozenset() if self._stands_in(router, node) else reached.hops
                    if known is None or cost < known.cost:
                        mine[prefix] = _Entry("intra-area", cost, hops, area)
                    elif cost == known.cost:  # what it stands in itself is no further
                        every = known.hops | hops if known.hops and hops else frozenset()
                        mine[prefix] = _Entry("intra-area", cost, every, area)
            for prefix, entry in mine.items():
                if prefix not in out or entry.cost < out[prefix].cost:
                    out[prefix] = entry
        return out

    def _stands_in(self, router: Router, node: Node) -> bool:
        """Tell whether a router announces what is at a node itself, or stands on that network."""
        return node == ("router", router) or any(
            hop is None
            for _, (_, hop) in (x for a in self.of[router] for x in self.areas[a].first.get((router, node), ()))
        )

    # from other areas (sections 12.4.3 and 16.2)

    def _inter(self, inside: dict[Router, dict[Network, _Entry]]) -> dict[Router, dict[Network, _Entry]]:
        """Return what comes from other areas; into a stub area a default route besides."""
        return self._spread(inside, self._default_into)

    def _spread(
        self, inside: Mapping[Router, Mapping[K, _Entry]], besides: Callable[[Router, int], Mapping[K, _Entry]] | None
    ) -> dict[Router, dict[K, _Entry]]:
        """Return what borders tell of: first into the backbone, then out of it. `besides`: what they tell a stub area more; None = they tell it nothing."""
        borders = [r for r, areas in self.of.items() if len(areas) > 1]
        into = {
            b: {k: e for k, e in inside[b].items() if e.area != BACKBONE} for b in borders if BACKBONE in self.of[b]
        }
        across: dict[Router, dict[K, _Entry]] = {r: {} for r in self.of}
        for router, areas in self.of.items():
            if BACKBONE in areas:
                across[router] = self._told(router, BACKBONE, into)
        for area in {a for areas in self.of.values() for a in areas} - {BACKBONE}:
            out: dict[Router, dict[K, _Entry]] = {}
            for b in borders:
                stub = self.of[b].get(area)
                if stub is None or (stub and besides is None):
                    continue
                out[b] = {k: e for k, e in {**across[b], **inside[b]}.items() if e.area != area}
                out[b] |= besides(b, area) if stub and besides is not None else {}
            for router, areas in self.of.items():
                closed = areas.get(area, True) and besides is None
                if list(areas) == [area] and not closed:  # a border asks the backbone alone (section 16.2)
                    across[router] = self._told(router, area, out)
        return across

    def _default_into(self, border: Router, area: int) -> dict[Network, _Entry]:
        """Return the default route that a border announces into a stub area (section 12.4.3.1)."""
        stubs = self.domain.settings(border).stub
        cost = next(s.default_cost for s in stubs if parse_area(s.area) == area)
        anywhere = ip_network("0.0.0.0/0" if self.version == 4 else "::/0")
        return {anywhere: _Entry("inter-area", cost, frozenset(), BACKBONE)}

    def _told(self, router: Router, area: int, told: Mapping[Router, Mapping[K, _Entry]]) -> dict[K, _Entry]:
        """Return the best of what borders announce into an area, as one router there sees it."""
        out: dict[K, _Entry] = {}
        paths = self.paths[router, area]
        for border, known_there in told.items():
            reached = paths.get(("router", border))
            if border == router or reached is None:
                continue
            for key, entry in known_there.items():
                cost, known = reached.cost + entry.cost, out.get(key)
                if key == router or entry.cost >= INFINITY:
                    continue
                if known is None or cost < known.cost:
                    out[key] = _Entry("inter-area", cost, reached.hops, area)
                elif cost == known.cost:
                    out[key] = _Entry("inter-area", cost, known.hops | reached.hops, area)
        return out

    # from outside (sections 12.4.4 and 16.4)

    def _outside(self) -> dict[Router, list[_Outer]]:
        """Return what each router brings in."""
        out: dict[Router, list[_Outer]] = {}
        for router in self.of:
            settings, held = self.domain.settings(router), self.domain.held(router)
            found: dict[Network, _Outer] = {}
            for rule in settings.redistribute:
                for k in held:
                    plain = k.to.version == self.version and k.to.prefixlen > 0
                    if plain and k.origin == rule.from_ and (router, k.interface) not in self.speaking:
                        found.setdefault(k.to, _Outer(k.to, rule.type, rule.metric, None))
                    elif plain and k.origin == rule.from_ == "static":
                        found.setdefault(k.to, _Outer(k.to, rule.type, rule.metric, self._forward(router, k)))
            anywhere = ip_network("0.0.0.0/0" if self.version == 4 else "::/0")
            default = next((k for k in held if k.to == anywhere), None)
            if settings.announce_default == "always" or (settings.announce_default == "when-known" and default):
                forward = self._forward(router, default) if default is not None else None
                found[anywhere] = _Outer(anywhere, 2, 1, forward)
            if found:
                out[router] = list(found.values())
        return out

    def _forward(self, router: Router, known: Known) -> Address | None:
        speaker = self.speaking.get((router, known.interface or ""))
        shared = speaker is not None and speaker.settings.network == "broadcast" and not speaker.settings.passive
        return known.hop if shared and speaker is not None and not speaker.stub else None

    def _rims(self, outside: Mapping[Router, object]) -> dict[Router, dict[Router, _Entry]]:
        """Return by router how it gets to each that knows the outside (section 16.4.1: ways inside other areas than the backbone first)."""
        inside: dict[Router, dict[Router, list[_Entry]]] = {r: defaultdict(list) for r in self.of}
        for router, areas in self.of.items():
            for area in (a for a, stub in areas.items() if not stub):
                for rim in outside:
                    reached = self.paths[router, area].get(("router", rim))
                    if reached is not None and rim != router:
                        inside[router][rim].append(_Entry("intra-area", reached.cost, reached.hops, area))
        best = {r: {rim: _best(e) for rim, e in ways.items()} for r, ways in inside.items()}
        return {r: {**ways, **best[r]} for r, ways in self._spread(best, None).items()}

    def _external(
        self,
        router: Router,
        own: Mapping[Network, _Entry],
        outside: Mapping[Router, list[_Outer]],
        rims: Mapping[Router, _Entry],
    ) -> dict[Network, tuple[Kind, int, Hops]]:
        """Return the best ways out: type 1 before type 2, then the metric of type 2, then the way to who announced it (section 16.4, step 6)."""
        found: dict[Network, tuple[tuple[int, int, int, int], Kind, int, Hops]] = {}
        for rim, prefixes in outside.items():
            if rim == router or rim not in rims or all(self.of[router].values()):
                continue
            for outer in prefixes:
                way = rims[rim] if outer.forward is None else _toward(outer.forward, own)
                if way is None:
                    continue
                hops = way.hops or (
                    frozenset({(self._interface_to(router, outer.forward), outer.forward)})
                    if outer.forward is not None
                    else frozenset()
                )
                apart = 0 if way.kind == "intra-area" and way.area != BACKBONE else 1
                kind: Kind = "external-1" if outer.type == 1 else "external-2"
                cost = way.cost + outer.metric if outer.type == 1 else outer.metric
                key = (outer.type, 0 if outer.type == 1 else outer.metric, apart, cost if outer.type == 1 else way.cost)
                known = found.get(outer.to)
                if known is None or key < known[0]:
                    found[outer.to] = (key, kind, cost, hops)
                elif key == known[0]:
                    found[outer.to] = (key, kind, cost, known[3] | hops)
        return {to: (kind, cost, hops) for to, (_, kind, cost, hops) in found.items() if hops}

    def _interface_to(self, router: Router, address: Address) -> str:
        """Return the interface on whose link a forwarding address stands."""
        return next(
            name
            for (r, name), s in self.speaking.items()
            if r == router and any(a.version == address.version and address in a.network for a in s.interface.addresses)
        )


def _best(entries: list[_Entry]) -> _Entry:
    """Return the preferred way to a router at the rim (section 16.4.1): inside another area than the backbone, then the least cost, then the larger area."""
    return min(entries, key=lambda e: (not (e.kind == "intra-area" and e.area != BACKBONE), e.cost, -e.area))


def _toward(address: Address, own: Mapping[Network, _Entry]) -> _Entry | None:
    """Return the longest way inside the domain to an address."""
    fits = [(p.prefixlen, e) for p, e in own.items() if p.version == address.version and address in p]
    return max(fits, key=lambda f: f[0])[1] if fits else None
