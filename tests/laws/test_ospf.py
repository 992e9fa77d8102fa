"""OSPF against a reference that knows nothing of it: all distances by Floyd and Warshall over what every router tells, then the tables by the letter of RFC 2328."""

from __future__ import annotations

from collections import defaultdict
from ipaddress import ip_address, ip_interface, ip_network
from itertools import product
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from anabasis.design import parse_design
from anabasis.leases import build_site
from tests.counts import law
from tests.sites import Tree

FAR = 10**9
Hop = tuple[str, str]
"""(egress interface, next hop)."""
Row = tuple[str, str, int, frozenset[Hop]]
"""(prefix, how it was learnt, cost, hops)."""


@st.composite
def domains(draw: st.DrawFn) -> Tree:
    """Return routers on links between two and on shared ones, in areas with and without a backbone, some of them stubs."""
    count, stub = draw(st.integers(2, 5)), draw(st.booleans())
    routers: list[Tree] = [
        {"name": f"r{k}", "kind": "router", "ports": [], "loopbacks": [], "vrfs": [{"name": "main", "routes": [], "ospf": {"router_id": f"10.255.0.{k + 1}", "interfaces": [], "stub": [{"area": "2", "default_cost": 3}] if stub else []}}]}
        for k in range(count)
    ]  # fmt: skip
    devices, cables = list(routers), []
    for n in range(draw(st.integers(count - 1, count + 2))):
        members = draw(st.lists(st.sampled_from(range(count)), min_size=2, max_size=4, unique=True))
        area, between = draw(st.sampled_from("00012")), len(members) == 2 and draw(st.booleans())
        if not between:
            ports = [{"name": f"r{m}", "pvid": 10 + n, "untagged": [10 + n]} for m in members]
            devices.append({"name": f"sw{n}", "kind": "switch", "ports": ports})
        for place, m in enumerate(members):
            name, settings = f"l{n}", routers[m]["vrfs"][0]["ospf"]
            routers[m]["ports"].append({"name": name, "addresses": [f"10.1.{n}.{place + 1}/24"]})
            kind = {"network": "point-to-point"} if between else {"priority": draw(st.integers(0, 2))}
            settings["interfaces"].append({"interface": name, "area": area, "cost": draw(st.integers(1, 4)), **kind})
            if not between:
                cables.append([f"r{m}:{name}", f"sw{n}:r{m}"])
        if between:
            cables.append([f"r{members[0]}:l{n}", f"r{members[1]}:l{n}"])
    for k, router in enumerate(routers):
        settings = router["vrfs"][0]["ospf"]
        areas = [x["area"] for x in settings["interfaces"]] or ["0"]
        router["ports"].append({"name": "h", "addresses": [f"10.64.{k}.1/24"]})
        router["loopbacks"].append({"name": "lo", "addresses": [f"10.255.0.{k + 1}/32"]})
        settings["interfaces"].append(
            {"interface": "h", "area": draw(st.sampled_from(areas)), "cost": draw(st.integers(1, 4)), "passive": True}
        )
        settings["interfaces"].append({"interface": "lo", "area": draw(st.sampled_from(areas))})
        devices.append({"name": f"h{k}", "kind": "endpoint", "addresses": [f"10.64.{k}.9/24"]})
        cables.append([f"r{k}:h", f"h{k}:1"])
        if draw(st.integers(0, 2)) == 0:
            settings["redistribute"] = [
                {"from": "static", "metric": draw(st.sampled_from((1, 5))), "type": draw(st.sampled_from((1, 2)))}
            ]
            to, n = draw(st.sampled_from((f"172.16.{k}.0/24", "172.16.99.0/24"))), draw(st.integers(0, 4))
            shared = any(p["name"] == f"l{n}" for p in router["ports"]) and draw(st.booleans())
            router["vrfs"][0]["routes"].append(
                {"to": to, "via": f"10.1.{n}.200"} if shared else {"to": to, "discard": True}
            )
        if draw(st.integers(0, 3)) == 0:
            settings["announce_default"] = draw(st.sampled_from(("when-known", "always")))
            if draw(st.booleans()):
                router["vrfs"][0]["routes"].append({"to": "0.0.0.0/0", "discard": True})
    vlans = [{"id": 10 + n, "name": f"v{n}"} for n in range(8)]
    return {"anabasis": 1, "name": "Domain", "vlans": vlans, "devices": devices, "cables": cables}


class Reference:
    """What every router should know, from the plain document."""

    def __init__(self, tree: Tree) -> None:
        self.boxes = {d["name"]: d for d in tree["devices"] if d["kind"] == "router"}
        self.said = {n: d["vrfs"][0]["ospf"] for n, d in self.boxes.items()}
        self.stub = {x["area"] for s in self.said.values() for x in s["stub"]}
        self.own: dict[tuple[str, str], Any] = {}
        for name, box in self.boxes.items():
            for port in (*box["ports"], *box["loopbacks"]):
                self.own[name, port["name"]] = ip_interface(port["addresses"][0])
        self.areas: dict[str, set[str]] = {n: {x["area"] for x in s["interfaces"]} for n, s in self.said.items()}
        self.links: dict[str, dict[tuple[str, str], Tree]] = defaultdict(dict)
        for n, s in self.said.items():
            for x in s["interfaces"]:
                self.links[x["interface"]][n, x["area"]] = x
        self.edges: dict[str, dict[tuple[str, str], int]] = defaultdict(dict)
        self.leaves: dict[tuple[str, str, str], list[tuple[int, Hop]]] = defaultdict(list)
        self.tells: dict[tuple[str, str], dict[str, int]] = defaultdict(dict)
        """(area, node) -> prefix -> cost"""
        for link, members in self.links.items():
            self._link(link, members)
        self.far = {a: self._distances(a) for a in {a for s in self.areas.values() for a in s}}

    def _link(self, link: str, members: dict[tuple[str, str], Tree]) -> None:
        for (name, area), x in members.items():
            own = self.own[name, link]
            if link in ("h", "lo"):
                prefix = str(own.network) if link == "h" else f"{own.ip}/32"
                self._tell(area, name, prefix, x.get("cost", 10) if link == "h" else 0)
        if link in ("h", "lo"):
            return
        pairs = [(a, b) for a, b in product(members, members) if a != b]
        point = any(x.get("network") == "point-to-point" for x in members.values())
        if point:
            for (one, area), (two, _) in pairs:
                cost = members[one, area]["cost"]
                self._edge(area, one, two, cost)
                self.leaves[area, one, two].append((cost, (link, str(self.own[two, link].ip))))
                self._tell(area, one, str(self.own[one, link].network), cost)
            return
        (area,) = {a for _, a in members}
        if any(x["priority"] for x in members.values()):
            head = max(members, key=lambda m: (members[m]["priority"], ip_address(self.said[m[0]]["router_id"])))
            # with priority 0 one is no neighbour of another with priority 0, and both are of the head
            assert members[head]["priority"]
            net = f"net {link}"
            for (name, _), x in members.items():
                self._edge(area, name, net, x["cost"])
                self._edge(area, net, name, 0)
                self.leaves[area, name, net].append((x["cost"], (link, "")))
                self._tell(area, net, str(self.own[name, link].network), 0)
        else:
            for (name, _), x in members.items():
                self._tell(area, name, str(self.own[name, link].network), x["cost"])

    def _edge(self, area: str, one: str, two: str, cost: int) -> None:
        self.edges[area][one, two] = min(cost, self.edges[area].get((one, two), FAR))

    def _tell(self, area: str, node: str, prefix: str, cost: int) -> None:
        self.tells[area, node][prefix] = min(cost, self.tells[area, node].get(prefix, FAR))

    def _distances(self, area: str) -> dict[tuple[str, str], int]:
        edges = self.edges[area]
        nodes = sorted({n for e in edges for n in e} | {n for n, s in self.areas.items() if area in s})
        far = {(a, b): 0 if a == b else edges.get((a, b), FAR) for a in nodes for b in nodes}
        for via, a, b in product(nodes, nodes, nodes):
            far[a, b] = min(far[a, b], far[a, via] + far[via, b])
        return far

    def hops(self, area: str, root: str, goal: str) -> frozenset[Hop]:
        """Return the next hops on all shortest ways: the first edge of each, and where that is a shared network the router after it."""
        far, out = self.far[area], set()
        for (a, one, near), ways in self.leaves.items():
            if (a, one) != (area, root):
                continue
            for cost, (link, address) in ways:
                if cost + far[near, goal] != far[root, goal] or far[root, goal] >= FAR:
                    continue
                if address:
                    out.add((link, address))
                    continue
                beside = [b for (n, b) in self.edges[area] if n == near and b != root]
                out |= {(link, str(self.own[b, link].ip)) for b in beside if far[b, goal] == far[near, goal]}
        return frozenset(out)

    def inside(self, root: str) -> dict[str, tuple[int, str, frozenset[Hop]]]:
        """Return prefix -> (cost, area, hops); no hops where the router stands there itself."""
        out: dict[str, tuple[int, str, frozenset[Hop]]] = {}
        for area in sorted(self.areas[root], key=int):
            far, mine = self.far[area], dict[str, tuple[int, str, frozenset[Hop]]]()
            for (a, node), prefixes in self.tells.items():
                for prefix, cost in prefixes.items() if a == area and (root, node) in far else ():
                    whole = far[root, node] + cost
                    beside = node == root or ((area, root, node) in self.leaves and node.startswith("net"))
                    hops = frozenset() if beside else self.hops(area, root, node)
                    if whole < FAR and (prefix not in mine or whole < mine[prefix][0]):
                        mine[prefix] = whole, area, hops
                    elif whole < FAR and whole == mine[prefix][0]:
                        here = not hops or not mine[prefix][2]
                        mine[prefix] = whole, area, frozenset() if here else mine[prefix][2] | hops
            for prefix, entry in mine.items():
                if prefix not in out or entry[0] < out[prefix][0]:
                    out[prefix] = entry
        return out

    def table(self) -> dict[str, set[Row]]:
        """Return what each router has learnt."""
        inside = {n: self.inside(n) for n in self.boxes}
        borders = [n for n, s in self.areas.items() if len(s) > 1]
        across: dict[str, dict[str, tuple[int, frozenset[Hop]]]] = {n: {} for n in self.boxes}

        def over(root: str, area: str, told: dict[str, dict[str, int]]) -> dict[str, tuple[int, frozenset[Hop]]]:
            best: dict[str, tuple[int, frozenset[Hop]]] = {}
            for border, prefixes in told.items():
                way = self.far[area].get((root, border), FAR)
                for prefix, cost in prefixes.items() if border != root and way < FAR else ():
                    known = best.get(prefix, (FAR, frozenset()))
                    if way + cost < known[0]:
                        best[prefix] = way + cost, self.hops(area, root, border)
                    elif way + cost == known[0]:
                        best[prefix] = known[0], known[1] | self.hops(area, root, border)
            return best

        into = {b: {p: c for p, (c, a, _) in inside[b].items() if a != "0"} for b in borders if "0" in self.areas[b]}
        for n in self.boxes:
            if "0" in self.areas[n]:
                across[n] = over(n, "0", into)
        for area in {a for s in self.areas.values() for a in s} - {"0"}:
            told = {
                b: {p: c for p, (c, _) in across[b].items() if p not in inside[b]}
                | {p: c for p, (c, a, _) in inside[b].items() if a != area}
                | ({"0.0.0.0/0": 3} if area in self.stub else {})
                for b in borders
                if area in self.areas[b]
            }
            for n in self.boxes:
                if self.areas[n] == {area}:
                    across[n] = over(n, area, told)
        out: dict[str, set[Row]] = {n: set() for n in self.boxes}
        for n in self.boxes:
            known = {p: ("intra-area", c, h, a) for p, (c, a, h) in inside[n].items()}
            known = {p: ("inter-area", c, h, "") for p, (c, h) in across[n].items()} | known
            out[n] |= {(p, k, c, h) for p, (k, c, h, _) in known.items() if h}
            out[n] |= self.outside(n, known, borders)
        return out

    def brought(self, name: str) -> list[tuple[str, int, int, str]]:
        """Return (prefix, type, metric, forwarding address) of what a router brings in."""
        said, out = self.said[name], []
        routes = self.boxes[name]["vrfs"][0]["routes"]
        for rule in said.get("redistribute", ()):
            for r in routes:
                if r["to"] != "0.0.0.0/0":
                    out.append((r["to"], rule["type"], rule["metric"], self._forward(name, r)))
        default = any(r["to"] == "0.0.0.0/0" for r in routes)
        if said.get("announce_default") == "always" or (said.get("announce_default") == "when-known" and default):
            out.append(("0.0.0.0/0", 2, 1, ""))
        return out

    def _forward(self, name: str, route: Tree) -> str:
        link = next(
            (
                i
                for (n, i), own in self.own.items()
                if n == name and "via" in route and ip_address(route["via"]) in own.network
            ),
            "",
        )
        mine = next((x for (n, _), x in self.links[link].items() if n == name), None) if link else None
        shared = mine is not None and mine.get("network") != "point-to-point" and mine["area"] not in self.stub
        return str(route["via"]) if shared else ""

    def rim(self, root: str, goal: str, borders: list[str]) -> tuple[int, int, frozenset[Hop]] | None:
        """Return (0 inside another area than the backbone, else 1; cost; hops) of the preferred way to who brings something in."""
        ways = self._ways(root, goal)
        if ways:
            return min(ways, key=lambda w: (w[0], w[1], -w[3]))[:3]
        return self._across(root, goal, borders)

    def _ways(self, root: str, goal: str) -> list[tuple[int, int, frozenset[Hop], int]]:
        return [
            (int(a == "0"), self.far[a][root, goal], self.hops(a, root, goal), int(a))
            for a in self.areas[root] - self.stub
            if self.far[a].get((root, goal), FAR) < FAR
        ]

    def _across(self, root: str, goal: str, borders: list[str]) -> tuple[int, int, frozenset[Hop]] | None:
        area = "0" if "0" in self.areas[root] else next(iter(self.areas[root])) if len(self.areas[root]) == 1 else ""
        best: tuple[int, int, frozenset[Hop]] | None = None
        for b in borders if area and area not in self.stub else ():
            way = self.far[area].get((root, b), FAR) if area in self.areas[b] and b != root else FAR
            ways = self._ways(b, goal)
            beyond = min(ways, key=lambda w: (w[0], w[1], -w[3])) if ways else None
            cost = None
            if area == "0":
                cost = beyond[1] if beyond is not None and str(beyond[3]) != "0" else None
            elif beyond is not None:
                cost = beyond[1] if str(beyond[3]) != area else None
            elif "0" in self.areas[b]:
                further = self._across(b, goal, borders)
                cost = further[1] if further is not None else None
            if way < FAR and cost is not None:
                hops = self.hops(area, root, b)
                if best is None or way + cost < best[1]:
                    best = 1, way + cost, hops
                elif way + cost == best[1]:
                    best = 1, best[1], best[2] | hops
        return best

    def outside(self, root: str, known: dict[str, Any], borders: list[str]) -> set[Row]:
        """Return what is learnt from outside."""
        found: dict[str, list[tuple[tuple[int, ...], str, int, frozenset[Hop]]]] = defaultdict(list)
        mine = {b[0] for b in self.brought(root)}
        for name in self.boxes:
            way = self.rim(root, name, borders) if name != root and not self.areas[root] <= self.stub else None
            for prefix, kind, metric, forward in self.brought(name) if way is not None else ():
                apart, cost, hops = way  # type: ignore[misc]
                if forward:
                    fits = [p for p in known if ip_address(forward) in ip_network(p)]
                    if not fits:
                        continue
                    how, cost, hops, area = known[max(fits, key=lambda p: ip_network(p).prefixlen)]
                    apart = 0 if how == "intra-area" and area != "0" else 1
                    if not hops:
                        link = next(
                            i for (n, i), own in self.own.items() if n == root and ip_address(forward) in own.network
                        )
                        hops = frozenset({(link, forward)})
                if kind == 1:
                    found[prefix].append(((1, 0, apart, cost + metric), "external-1", cost + metric, hops))
                else:
                    found[prefix].append(((2, metric, apart, cost), "external-2", metric, hops))
        out: set[Row] = set()
        for prefix, ways in found.items():
            best = min(w[0] for w in ways)
            same = [w for w in ways if w[0] == best]
            if prefix not in known and prefix not in mine:
                out.add((prefix, same[0][1], same[0][2], frozenset().union(*(w[3] for w in same))))
        return out


@law(2000, 60)
@given(domains())
def test_tables_are_those_of_the_reference(tree: Tree) -> None:
    """Every route of every router: prefix, how it was learnt, cost, and all next hops."""
    site, wanted = build_site(parse_design(tree)), Reference(tree).table()
    for name in wanted:
        found: dict[tuple[str, str, int], set[Hop]] = defaultdict(set)
        for r in site.net.tables[name, "main"].routes:
            if r.origin == "ospf":
                found[str(r.to), str(r.learnt), r.metric].add((str(r.interface), str(r.hop)))
        rows = {(*key, frozenset(hops)) for key, hops in found.items()}
        assert rows == wanted[name], name
