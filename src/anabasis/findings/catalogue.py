"""The catalogue of findings: every code, how grave it is, the stage of the climb where it starts, and what it means."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from anabasis.design import Patch
from anabasis.facts import Cause, Detail, EditDoes, Ground, Layer, Says, detail
from anabasis.wording import edit_words, tell_finding

Severity = Literal["breaks", "risks", "untidy"]
StageName = Literal["cabling", "segments", "routing", "zones", "reach", "failover", "expectations", "history"]


@dataclass(frozen=True)
class Kind:
    """What all findings of one code share."""

    code: str
    severity: Severity
    stage: StageName
    """The stage of the climb it starts at: `cabling`, `segments`, `routing`, `zones`, `reach`, `failover` or `expectations`."""
    meaning: str


CATALOGUE = {
    k.code: k
    for k in (
        Kind(
            "bundle-down",
            "breaks",
            "cabling",
            "A bundle does not come up: its ends do not agree, or too few members work.",
        ),
        Kind("bundle-short", "risks", "cabling", "A bundle works, but some of its members stay out of it."),
        Kind(
            "loop",
            "breaks",
            "cabling",
            "Cables make a loop among devices without spanning tree: a broadcast goes round for ever.",
        ),
        Kind(
            "bypass",
            "risks",
            "cabling",
            "A cable path leads around an inline pair or a transparent boundary: traffic on it never meets the firewall.",
        ),
        Kind(
            "speed-differs",
            "breaks",
            "cabling",
            "The two ends of a cable run at different fixed speeds, so there is no link.",
        ),
        Kind("members-unlike", "untidy", "cabling", "The members of a bundle run at different speeds."),
        Kind("pair-unused", "untidy", "cabling", "An inline pair has an end without a cable."),
        Kind(
            "port-open",
            "untidy",
            "cabling",
            "Enabled ports without a cable stand in a VLAN that is in use, and no note says what for.",
        ),
        Kind(
            "table-lacks",
            "breaks",
            "segments",
            "A port is a member of a VLAN that its device's VLAN table does not have, so its frames are dropped.",
        ),
        Kind(
            "untagged-several",
            "risks",
            "segments",
            "A port sends several VLANs without tags, and puts what comes back into one of them.",
        ),
        Kind(
            "default-left",
            "untidy",
            "segments",
            "A port in another VLAN is still an untagged member of the default VLAN 1.",
        ),
        Kind("vlan-unused", "untidy", "segments", "A VLAN of the plan that no port, interface or table names."),
        Kind("limit-vlans", "breaks", "segments", "A device has more VLANs than it can hold."),
        Kind(
            "lease-range",
            "breaks",
            "routing",
            "A DHCP server hands out addresses it should not: outside the subnet, the gateway's, its own, or another server's.",
        ),
        Kind(
            "lease-two",
            "risks",
            "routing",
            "Two DHCP servers answer in one broadcast domain; which one is first is luck.",
        ),
        Kind("island", "breaks", "segments", "One VLAN of the plan has fallen into parts that exchange no frames."),
        Kind(
            "merged",
            "risks",
            "segments",
            "Two or more VLANs are one broadcast domain: frames of one reach hosts of the other.",
        ),
        Kind(
            "native-differs", "risks", "segments", "The two ends of a cable put untagged frames into different VLANs."
        ),
        Kind(
            "pvid-outside",
            "breaks",
            "segments",
            "Untagged frames are put into a VLAN that the port is no member of, so they are dropped.",
        ),
        Kind("tag-one-sided", "untidy", "segments", "One end of an uplink carries a VLAN that the other end drops."),
        Kind(
            "interface-down",
            "breaks",
            "routing",
            "A layer-3 interface with an address is down, so its subnet is not there.",
        ),
        Kind(
            "address-elsewhere",
            "breaks",
            "routing",
            "An endpoint has an address of no subnet of the segment it stands in.",
        ),
        Kind(
            "gateway-missing",
            "breaks",
            "routing",
            "The plan gives a VLAN a subnet, hosts stand in it, and no device that routes has an address there.",
        ),
        Kind(
            "gateway-choice",
            "breaks",
            "routing",
            "Several devices that route stand in one subnet and nothing says which one hosts use.",
        ),
        Kind("address-missing", "risks", "routing", "A layer-3 interface has no address, so nothing is routed by it."),
        Kind(
            "subnet-overlap",
            "breaks",
            "routing",
            "Two interfaces of one VRF have subnets that overlap: which one a packet takes is luck.",
        ),
        Kind(
            "boundary-subnets",
            "breaks",
            "routing",
            "The two sides of a transparent boundary share no subnet, so their hosts never send to each other straight.",
        ),
        Kind(
            "gateway-wrong",
            "breaks",
            "routing",
            "A host has, or is handed, a gateway that nobody holds or that lies outside its subnet.",
        ),
        Kind("route-backup", "risks", "routing", "The best route to a prefix is not in force, and a backup stands in."),
        Kind(
            "relay-nowhere", "breaks", "routing", "A DHCP relay asks a server that nobody has, or that it cannot reach."
        ),
        Kind(
            "private-outside",
            "breaks",
            "zones",
            "Private addresses are let out to a network that drops them: a translation here, or a route back there, is missing.",
        ),
        Kind("nat-unruled", "risks", "zones", "A translation that no rule lets anything through."),
        Kind(
            "rule-unpublished",
            "risks",
            "zones",
            "A rule lets strangers in to private addresses, and no translation leads there.",
        ),
        Kind("rule-any", "risks", "zones", "A rule lets everything pass to everywhere."),
        Kind(
            "rule-covers-outside",
            "risks",
            "zones",
            "A rule says any zone and any destination, and so lets traffic out to the outside as well.",
        ),
        Kind(
            "rule-elsewhere",
            "risks",
            "zones",
            "A rule speaks of traffic that never meets its firewall: switched, or routed behind it.",
        ),
        Kind("rule-shadowed", "risks", "zones", "A rule decides nothing: rules above it take all it speaks of."),
        Kind(
            "rule-redundant", "untidy", "zones", "A rule changes nothing: what stands below it would decide the same."
        ),
        Kind(
            "rule-unmet",
            "untidy",
            "zones",
            "A rule decides something, but no route or frame brings such traffic to its firewall.",
        ),
        Kind("answers-risky", "risks", "zones", "A box answers management services to visitors or to the outside."),
        Kind(
            "firewall-port-open",
            "risks",
            "cabling",
            "A firewall has enabled ports without a cable or a note: whoever plugs in there stands in their zone.",
        ),
        Kind(
            "pair-unsaid",
            "untidy",
            "failover",
            "A pair does not say whether it preempts, or whether it syncs sessions, and boxes differ in what they do then.",
        ),
        Kind(
            "names-alike",
            "untidy",
            "cabling",
            "Names of one kind differ only in case, width or letters that look alike.",
        ),
        Kind(
            "running-behind",
            "untidy",
            "cabling",
            "A box does not run what the design says yet, has not saved it, or nobody has looked.",
        ),
        Kind("visitors-inside", "risks", "reach", "A segment for visitors reaches hosts inside."),
        Kind(
            "management-open",
            "risks",
            "zones",
            "A VLAN is for management, and management services of a box are answered to hosts of others, the operator's aside.",
        ),
        Kind("unused", "untidy", "zones", "A zone, set, VRF, answers list or route that nothing uses."),
        Kind(
            "route-inactive",
            "breaks",
            "routing",
            "A static route is not in force, so its packets go elsewhere or nowhere.",
        ),
        Kind("zone-missing", "breaks", "zones", "An interface of a firewall is in no zone; nothing passes it."),
        Kind("zone-kind", "breaks", "zones", "A zone is of another kind than its interfaces; nothing passes them."),
        Kind("return-missing", "breaks", "reach", "Packets arrive, but their replies do not come back."),
        Kind(
            "expectation-broken",
            "breaks",
            "expectations",
            "What must be open is not, what must stay closed is open, or something passes by another way than it may.",
        ),
        Kind(
            "expectation-unknown",
            "risks",
            "expectations",
            "An expectation names an end that is nothing in this design.",
        ),
        Kind(
            "pair-unsettled",
            "breaks",
            "failover",
            "A firewall has two units and no failover settings.",
        ),
        Kind(
            "pair-unlike",
            "breaks",
            "failover",
            "The units of a pair differ in a trait that both must share: they refuse each other.",
        ),
        Kind(
            "heartbeat-none",
            "breaks",
            "failover",
            "No heartbeat works: both units are active at once.",
        ),
        Kind(
            "heartbeat-astray",
            "breaks",
            "failover",
            "A heartbeat leads to something else than a heartbeat of the peer.",
        ),
        Kind(
            "heartbeat-one",
            "risks",
            "failover",
            "One heartbeat only: one cable, and the units no longer hear each other.",
        ),
        Kind(
            "heartbeat-switched",
            "risks",
            "failover",
            "A heartbeat goes through a switch, which may die by itself.",
        ),
        Kind(
            "pair-segments-differ",
            "breaks",
            "failover",
            "The same port of the two units leads into different VLANs: they do not stand in the same segments.",
        ),
        Kind(
            "pair-cabled-unlike",
            "risks",
            "failover",
            "A port is cabled on one unit of a pair and not on the other.",
        ),
        Kind(
            "watch-forgets",
            "risks",
            "failover",
            "A port that carries traffic is not watched: when it goes down, nobody takes over.",
        ),
        Kind(
            "watch-idle",
            "untidy",
            "failover",
            "A watched port has no cable on either unit.",
        ),
        Kind(
            "sessions-unsynced",
            "risks",
            "failover",
            "Sessions are not told to the other unit, so they are lost when it takes over.",
        ),
        Kind(
            "secret-default",
            "risks",
            "failover",
            "The units know each other by the maker's default secret.",
        ),
        Kind(
            "duplex-differs",
            "risks",
            "cabling",
            "The two ends of a cable differ in duplex: frames are lost whenever both speak.",
        ),
        Kind(
            "mtu-differs",
            "risks",
            "cabling",
            "The two ends of a cable take frames of different sizes: the larger ones are lost.",
        ),
        Kind(
            "tag-protocol-differs",
            "risks",
            "cabling",
            "The two ends of a cable write tags with different EtherTypes, so neither reads the other's.",
        ),
        Kind(
            "inline-alone", "breaks", "cabling", "A port is inline and stands in no inline pair, so nothing passes it."
        ),
        Kind(
            "host-cut",
            "breaks",
            "cabling",
            "A host's own line does not work, or its frames and those of its port do not fit each other.",
        ),
        Kind(
            "interface-apart", "breaks", "segments", "A layer-3 interface exchanges no frames with the VLAN it is for."
        ),
        Kind("frames-lost", "breaks", "segments", "Frames do not get from one segment's hosts to where they should."),
        Kind(
            "bridged-bare",
            "breaks",
            "segments",
            "A bridged port of a firewall is in no VLAN, so it exchanges no frames.",
        ),
        Kind("one-way", "risks", "segments", "Frames of a VLAN pass a cable one way only."),
        Kind("accept-shuts", "risks", "segments", "A port carries VLANs and admits no frames of them."),
        Kind(
            "tag-foreign",
            "risks",
            "segments",
            "A port that leads to one host carries tags of VLANs that are not that host's.",
        ),
        Kind(
            "address-off-plan",
            "breaks",
            "routing",
            "An interface stands in a VLAN of the plan with an address of none of its subnets.",
        ),
        Kind(
            "address-twice",
            "breaks",
            "routing",
            "An address is held twice in one broadcast domain: who answers is luck.",
        ),
        Kind(
            "mask-differs",
            "risks",
            "routing",
            "The prefix length of an address is not that of the subnet it stands in.",
        ),
        Kind("gateway-lost", "breaks", "routing", "Hosts do not get to a gateway."),
        Kind("route-missing", "breaks", "routing", "A box has no route to a subnet that is there, or to the outside."),
        Kind("lease-none", "breaks", "routing", "A host asks for a lease and gets none."),
        Kind(
            "lease-missing",
            "untidy",
            "routing",
            "A routed VLAN with places for hosts has no DHCP server or relay, and does not say that this is on purpose.",
        ),
        Kind("lease-off", "risks", "routing", "The only DHCP server of a VLAN is switched off."),
        Kind(
            "lease-gatewayless",
            "risks",
            "routing",
            "A DHCP server hands out no gateway, so its clients get no further than their link.",
        ),
        Kind(
            "lease-yields",
            "untidy",
            "routing",
            "A DHCP server that yields stands beside another: it is quiet only while it hears that one.",
        ),
        Kind("host-names", "risks", "reach", "A host was told of name servers by hand, and none of them answers it."),
        Kind("lease-names", "risks", "routing", "A DHCP server hands out a name server that its clients do not reach."),
        Kind(
            "limit-passed",
            "breaks",
            "segments",
            "A device has more of something than it can hold, or something it cannot do.",
        ),
        Kind(
            "lease-holds-host",
            "risks",
            "routing",
            "A host with an address of its own stands inside a range that a DHCP server hands out.",
        ),
        Kind(
            "ssid-open",
            "risks",
            "segments",
            "An SSID without security leads into a VLAN that is not for visitors.",
        ),
        Kind("neighbour-apart", "breaks", "routing", "Two routers that should be OSPF neighbours are none."),
        Kind("router-id-twice", "breaks", "routing", "Two routers of one OSPF domain have the same router id."),
        Kind(
            "backbone-split",
            "breaks",
            "routing",
            "Areas of OSPF have no backbone between them, or it has fallen apart.",
        ),
        Kind(
            "routes-apart",
            "risks",
            "routing",
            "A static and a learnt route to one prefix lead different ways, and nothing says that one of them stands by.",
        ),
        Kind("ospf-to-users", "risks", "routing", "OSPF is spoken where hosts stand: the interface is not passive."),
        Kind(
            "tunnel-down",
            "breaks",
            "routing",
            "A tunnel, or a way to dial in, does not come up: its own packets do not pass, or its ends do not agree.",
        ),
        Kind(
            "selectors-unlike",
            "risks",
            "routing",
            "The two ends of a tunnel do not carry the same traffic: what one sends, the other drops.",
        ),
        Kind("tunnel-secret", "risks", "routing", "A tunnel has the maker's default secret."),
        Kind("tunnel-weak", "risks", "routing", "A tunnel speaks a protocol that is easily broken."),
        Kind(
            "tunnel-overlaps",
            "risks",
            "routing",
            "A tunnel carries to there what lies here: subnets at its ends overlap.",
        ),
        Kind(
            "tunnel-too-long",
            "risks",
            "routing",
            "A tunnel takes packets that do not fit into one outside: they are cut into fragments, or lost.",
        ),
        Kind(
            "fragments-untold",
            "risks",
            "routing",
            "Packets that do not fit into a tunnel are lost in silence: a filter drops what would tell their sender (RFC 1191, RFC 8201).",
        ),
        Kind(
            "underlay-lost",
            "breaks",
            "routing",
            "Boxes of an overlay do not reach each other's source, so nothing of theirs is joined.",
        ),
        Kind("rd-twice", "breaks", "routing", "Two tables of a box have one distinguisher."),
        Kind(
            "vni-twice",
            "breaks",
            "segments",
            "A VNI stands for two VLANs of a box, or for a VLAN and a routing table.",
        ),
        Kind("vnis-differ", "breaks", "segments", "A VLAN of a tenant has one VNI here and another there."),
        Kind(
            "targets-apart",
            "breaks",
            "segments",
            "Two boxes have a VLAN of one VNI, and one imports nothing that the other exports.",
        ),
        Kind(
            "target-shared",
            "risks",
            "routing",
            "A table of one tenant takes routes of another's, and an expectation keeps them apart.",
        ),
        Kind(
            "irb-vrf",
            "breaks",
            "routing",
            "The gateway of a stretched VLAN stands in another VRF than on the other boxes.",
        ),
        Kind("advertised-foreign", "risks", "routing", "A table advertises a prefix that is no subnet of it."),
        Kind(
            "prefix-untold",
            "breaks",
            "routing",
            "A router that speaks OSPF has a subnet of hosts that it announces to nobody.",
        ),
        Kind("pair-port-down", "risks", "failover", "A port works on one unit of a pair and not on the other."),
        Kind(
            "drill-missing",
            "untidy",
            "failover",
            "No failover drill is recorded.",
        ),
    )
}


@dataclass(frozen=True)
class Choice:
    """Another edit that mends a finding, and what it does."""

    what: EditDoes
    patch: Patch

    @property
    def words(self) -> str:
        """Return what it does, without a full stop."""
        return edit_words(self.what)


@dataclass(frozen=True)
class Finding:
    """One thing to mend, or to know."""

    says: Says
    pointers: tuple[str, ...]
    details: tuple[tuple[str, Detail], ...] = ()
    """The values in what it says, by the name its sentence calls them."""
    mend: Patch | None = None
    """The one edit that mends it, where there is one."""
    also: tuple[Choice, ...] = ()
    """Other ways to mend it."""
    cause: Cause | None = None
    """What is wrong, where the finding is about something that does not work."""
    folds: tuple[Finding, ...] = ()
    """Its mere consequences: what else does not work because of it."""

    @property
    def code(self) -> str:
        """Return its code in the catalogue."""
        return self.says.code

    @property
    def what(self) -> object:
        """Return what tells it apart wherever in the document its items stand."""
        below = self.cause.what if self.cause is not None else None
        return self.says, tuple(v.what if isinstance(v, Cause | Ground) else v for _, v in self.details), below

    @property
    def sentence(self) -> str:
        """Return it for a person."""
        return tell_finding(self.says, {"cause": self.cause or "", **dict(self.details)})

    @property
    def kind(self) -> Kind:
        """Return its entry in the catalogue."""
        return CATALOGUE[self.code]

    def as_dict(self) -> dict[str, object]:
        """Return the finding for JSON (command-line promise, `findings`)."""
        return {
            "code": self.code,
            "severity": self.kind.severity,
            "stage": self.kind.stage,
            "sentence": self.sentence,
            "pointers": list(self.pointers),
            "mend": self.mend,
            "folds": [f.sentence for f in self.folds],
            "also": [{"words": c.words, "patch": c.patch} for c in self.also],
        }


def finding(
    says: Says,
    *places: str,
    mend: Patch | None = None,
    also: tuple[Choice, ...] = (),
    cause: Cause | None = None,
    values: Mapping[str, object] | None = None,
    **more: object,
) -> Finding:
    """Return a finding at some items, with the values its sentence speaks of: names, numbers, facts; addresses and prefixes are kept as written."""
    held = tuple((name, detail(value)) for name, value in {**(values or {}), **more}.items())
    return Finding(says, tuple(dict.fromkeys(places)), held, mend, also, cause)


STAGES: tuple[StageName, ...] = (
    "cabling",
    "segments",
    "routing",
    "zones",
    "reach",
    "failover",
    "expectations",
    "history",
)
SEVERITIES: tuple[Severity, ...] = ("breaks", "risks", "untidy")


HEIGHTS: dict[Layer, float] = {
    Layer.LINK: 0,
    Layer.ISOLATION: 1,
    Layer.VLAN: 1,
    Layer.GATEWAY: 2,
    Layer.NEIGHBOUR: 2.5,
    Layer.ROUTE: 3,
    Layer.UNDERLAY: 3.25,
    Layer.TUNNEL: 3.5,
    Layer.RETURN: 3,
    Layer.ANSWERS: 4,
    Layer.NAME: 9,
    Layer.ZONE: 5,
    Layer.NAT: 6,
    Layer.RULE: 7,
    Layer.STANDBY: 8,
}
"""How high a cause lies, from the cable up."""
OF_STAGE = {"cabling": 0, "segments": 1, "routing": 2, "reach": 3, "zones": 6, "failover": 8, "expectations": 9}


def _height(finding: Finding) -> float:
    """Return how high what is wrong lies: by its cause where it has one, else by the stage it starts at."""
    if finding.code == "expectation-broken" and finding.cause is None:
        return OF_STAGE["expectations"]
    if finding.cause is None and finding.code.startswith("lease"):
        return HEIGHTS[Layer.ANSWERS]
    if finding.cause is not None:
        return HEIGHTS[finding.cause.root.layer]
    return OF_STAGE.get(finding.kind.stage, 9)


def in_order(findings: Iterable[Finding]) -> list[Finding]:
    """Sort findings the way one mends them: from the lowest stage up, the grave ones first; of one cause there is one finding."""
    return _folded(sorted(findings, key=lambda f: (SEVERITIES.index(f.kind.severity), _height(f), f.code in GENERAL)))


GENERAL = frozenset(("frames-lost", "gateway-lost", "route-missing", "return-missing"))
"""Findings about what is lost, which give way to one that says what is wrong."""


LEANING = frozenset(("route-inactive", "route-backup"))
"""Findings about what does not work because of something else, which has one of its own."""


def _rank(finding: Finding) -> int:
    """What says what is wrong comes before what says what is lost, and that before what was expected."""
    if finding.code == "expectation-broken":
        return 3
    return 2 if finding.code in GENERAL else int(finding.code in LEANING)


def _key(root: Cause) -> tuple[object, ...]:
    """Return what tells causes apart: below layer 3 the items of a link and the VLAN, above it the item to go to."""
    if root.layer in (Layer.LINK, Layer.VLAN, Layer.ISOLATION):
        return root.layer, frozenset(root.guilty), root.known.get("vlan")
    return root.layer, root.guilty[0]


def _folded(findings: list[Finding]) -> list[Finding]:
    """Put what has one and the same cause under its first finding; an innocent item is never called broken."""
    out: list[Finding] = []
    heads: dict[tuple[object, ...], int] = {}
    for finding in findings:
        root = finding.cause.root if finding.cause is not None else None
        key = _key(root) if root is not None and root.guilty else None
        at = heads.get(key) if key is not None else None
        if at is None:
            if key is not None:
                heads[key] = len(out)
            out.append(finding)
            continue
        head, other = out[at], finding
        if _rank(other) < _rank(head) and other.kind.severity == head.kind.severity:
            head, other = other, head
        folds = (*head.folds, replace(other, folds=()), *other.folds)
        out[at] = replace(head, folds=folds, mend=head.mend or other.mend, also=head.also or other.also)
    return out


def place_to_begin(findings: Iterable[Finding]) -> str | None:
    """Return the lowest stage with a finding that breaks something."""
    stages = {f.kind.stage for f in findings if f.kind.severity == "breaks"}
    return next((s for s in STAGES if s in stages), None)


def as_markdown() -> str:
    """Return the catalogue as docs/findings.md holds it."""
    lines = ["# Findings", "", "Written by `anabasis schema --findings`; a test fails when it drifts.", ""]
    lines += ["| code | severity | starts at | meaning |", "|---|---|---|---|"]
    lines += [f"| `{k.code}` | {k.severity} | {k.stage} | {k.meaning} |" for k in CATALOGUE.values()]
    return "\n".join(lines) + "\n"
