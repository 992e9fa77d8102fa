"""The walk against an independent reading of docs/semantics.md, "Policy": one firewall, three links, and the steps one after the other in plain words.

Nothing of the policy package is used here: sets, translations and rules are read from the raw document.
"""

from __future__ import annotations

from ipaddress import ip_address, ip_network

from hypothesis import given, note
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import parse_design
from tests.counts import law
from tests.sites import Tree

NETS = {"a": 11, "b": 12, "c": 13}
SERVICES = {"tcp/80": (6, 80), "tcp/443": (6, 443), "udp/53": (17, 53), "tcp/8080": (6, 8080)}
NOWHERE = "203.0.113.9"

zone_lists = st.lists(st.sampled_from(("za", "zb", "zc", "any")), min_size=1, max_size=2)
address_lists = st.lists(
    st.sampled_from(("any", "10.64.11.0/24", "10.64.12.0/25", "10.64.13.10", "10.64.12.10", "198.51.100.0/28")),
    min_size=1,
    max_size=2,
)
service_lists = st.lists(st.sampled_from(("any", "tcp/80", "tcp/443", "udp/53", "tcp/8080")), min_size=1, max_size=2)
matches = st.fixed_dictionaries(
    {
        "from": zone_lists,
        "to": zone_lists,
        "sources": address_lists,
        "destinations": address_lists,
        "services": service_lists,
    }
)
rules = st.lists(st.tuples(matches, st.sampled_from(("permit", "drop", "refuse")), st.booleans()), max_size=4).map(
    lambda rs: [{"name": f"r{i}", **m, "action": a, "enabled": e or i > 0} for i, (m, a, e) in enumerate(rs)]
)
changes = st.sampled_from(
    (
        {"source_to": "interface"},
        {"source_to": "198.51.100.9"},
        {"destination_to": "10.64.12.10"},
        {"destination_to": "10.64.13.10", "service_to": "tcp/80"},
        {"destination_to": "10.64.11.1"},
        {"destination_to": "10.64.13.10", "source_to": "interface"},
        {"service_to": "tcp/443"},
    )
)
nats = st.lists(st.tuples(matches, changes), max_size=3).map(
    lambda ns: [{"name": f"n{i}", **m, **c} for i, (m, c) in enumerate(ns)]
)
answers = st.fixed_dictionaries({"services": service_lists, "sources": address_lists}).map(
    lambda a: {"name": "own", **a}
)


@st.composite
def firewalls(draw: st.DrawFn) -> Tree:
    """Return one firewall between three links with a host on each."""
    zones = {name: draw(st.sampled_from((f"z{name}", f"z{name}", "zb", None))) for name in NETS}
    ports = []
    for name, net in NETS.items():
        port: Tree = {"name": name, "mode": "routed", "addresses": [f"10.64.{net}.1/24"]}
        port |= {"zone": zones[name]} if zones[name] else {}
        port |= {"answers": "own"} if draw(st.booleans()) else {}
        ports.append(port)
    fence: Tree = {"name": "fw", "kind": "firewall", "ports": ports, "rules": draw(rules), "nat": draw(nats)}
    fence["zones"] = [{"name": z} for z in ("za", "zb", "zc")]
    fence["answers"] = [draw(answers)]
    fence |= draw(
        st.sampled_from(({}, {}, {"same_zone": "drop"}, {"between_zones": "permit"}, {"answers_across": False}))
    )
    hosts = [
        {"name": f"h{n}", "kind": "endpoint", "addresses": [f"10.64.{net}.10/24"], "gateway": f"10.64.{net}.1"}
        for n, net in NETS.items()
    ]
    cables = [[f"fw:{n}", f"h{n}:1"] for n in NETS]
    return {"anabasis": 1, "name": "One", "devices": [fence, *hosts], "cables": cables}


def holds(terms: list[str], address: str) -> bool:
    """Tell whether an address is in a list."""
    return any(t == "any" or ip_address(address) in ip_network(t) for t in terms)


def takes(entry: Tree, source: str, destination: str, service: str) -> bool:
    """Tell whether an entry matches, zones aside."""
    named = "any" in entry["services"] or service in entry["services"]
    return holds(entry["sources"], source) and holds(entry["destinations"], destination) and named


def speaks(zones: list[str], zone: str) -> bool:
    """Tell whether a list of zones has one."""
    return "any" in zones or zone in zones


def reading(fence: Tree, source: str, destination: str, service: str) -> str:
    """Return what section 5 says becomes of a packet: the host that gets it, `answered`, or the layer that stops it."""
    ports = {p["name"]: p for p in fence["ports"]}
    own = {p["addresses"][0].split("/")[0]: n for n, p in ports.items()}
    subnet = {n: ip_network(f"10.64.{net}.0/24") for n, net in NETS.items()}
    ingress = next(n for n in NETS if ip_address(source) in subnet[n])
    zone_in = ports[ingress].get("zone")
    if zone_in is None:  # 1
        return "zone"
    for n in fence["nat"]:  # 2
        if (
            ("destination_to" in n or "service_to" in n)
            and speaks(n["from"], zone_in)
            and takes(n, source, destination, service)
        ):
            destination = n.get("destination_to", destination)
            if n.get("service_to", service).split("/")[0] == service.split("/")[0]:
                service = n.get("service_to", service)
            break
    if destination in own:  # 3
        owner = ports[own[destination]]
        lists = fence["answers"][0] if owner.get("answers") else None
        if lists is None or not (
            holds(lists["sources"], source) and ("any" in lists["services"] or service in lists["services"])
        ):
            return "answers"
        if owner["name"] != ingress and not fence.get("answers_across", True):
            return "answers"
        if owner.get("zone") is None:
            return "zone"
        return (
            "answered"
            if owner["zone"] == zone_in
            else decided(fence, zone_in, owner["zone"], source, destination, service) or "answered"
        )
    egress = next((n for n in NETS if ip_address(destination) in subnet[n]), None)  # 4
    if egress is None:
        return "route"
    zone_out = ports[egress].get("zone")
    if zone_out is None:
        return "zone"
    stopped = decided(fence, zone_in, zone_out, source, destination, service)  # 5
    return stopped or destination  # 6 changes the source, which the session changes back


def decided(fence: Tree, zone_in: str, zone_out: str, source: str, destination: str, service: str) -> str | None:
    """Return `rule` where the rules stop it."""
    for rule in fence["rules"]:
        if (
            rule["enabled"]
            and speaks(rule["from"], zone_in)
            and speaks(rule["to"], zone_out)
            and takes(rule, source, destination, service)
        ):
            return None if rule["action"] == "permit" else "rule"
    default = fence.get("same_zone", "permit") if zone_in == zone_out else fence.get("between_zones", "drop")
    return None if default == "permit" else "rule"


@law(2500, 120)
@given(
    firewalls(), st.sampled_from("abc"), st.sampled_from("abcABC") | st.just(NOWHERE), st.sampled_from(sorted(SERVICES))
)
def test_the_walk_reads_the_pipeline_as_it_is_written(tree: Tree, one: str, two: str, service: str) -> None:
    """From a host to a host, to an address of the box, or to an address that only a translation can mean."""
    source = f"10.64.{NETS[one]}.10"
    destination = two if two == NOWHERE else f"10.64.{NETS[two.lower()]}.{1 if two.isupper() else 10}"
    if destination == NOWHERE and not any(
        holds(n["destinations"], NOWHERE)
        for n in tree["devices"][0]["nat"]
        if "destination_to" in n or "service_to" in n
    ):
        return  # an address that nobody has, and nothing speaks of
    same_link = two != NOWHERE and one == two
    if same_link:
        return  # on one link the firewall is not asked
    expected = reading(tree["devices"][0], source, destination, service)
    went = Climb(parse_design(tree)).walk(source, destination, service)
    note(f"{source} -> {destination} {service}: {went.outcome} {went.layer} {went.reason}; expected {expected}")
    got = (
        went.layer
        if went.outcome == "stopped"
        else "answered"
        if went.outcome == "answered"
        else str(went.receiver and went.receiver.address)
    )
    assert got == expected
