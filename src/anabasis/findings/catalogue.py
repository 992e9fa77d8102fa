"""The catalogue of findings: every code, how grave it is, the stage of the climb where it starts, and what it means."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from anabasis.design import Patch


@dataclass(frozen=True)
class Kind:
    """What all findings of one code share."""

    code: str
    severity: str
    """`breaks`, `risks` or `untidy`."""
    stage: str
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
            "risks",
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
            "risks",
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
            "The units of a pair differ in model, software, licence or storage: they refuse each other.",
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
            "drill-missing",
            "untidy",
            "failover",
            "No failover drill is recorded.",
        ),
    )
}


@dataclass(frozen=True)
class Choice:
    """Another edit that mends a finding, and what it is."""

    words: str
    patch: Patch


@dataclass(frozen=True)
class Finding:
    """One thing to mend, or to know."""

    code: str
    sentence: str
    pointers: tuple[str, ...]
    mend: Patch | None = None
    """The one edit that mends it, where there is one."""
    also: tuple[Choice, ...] = ()
    """Other ways to mend it."""

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
            "also": [{"words": c.words, "patch": c.patch} for c in self.also],
        }


STAGES = ("cabling", "segments", "routing", "zones", "reach", "failover", "expectations", "history")
SEVERITIES = ("breaks", "risks", "untidy")


def in_order(findings: Iterable[Finding]) -> list[Finding]:
    """Sort findings the way one mends them: from the lowest stage up, the grave ones first."""
    return sorted(findings, key=lambda f: (SEVERITIES.index(f.kind.severity), STAGES.index(f.kind.stage)))


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
