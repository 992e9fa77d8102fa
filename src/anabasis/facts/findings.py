"""What a finding says, as a fact: which sentence of the catalogue, and the values in it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum, unique

from anabasis.facts.causes import Cause
from anabasis.facts.judgements import Ground


@unique
class Says(Enum):
    """What a finding may say: (code of the catalogue, which of its sentences). Each has one sentence in `wording/findings.py`."""

    # cabling
    BUNDLE_DOWN = ("bundle-down", "")
    BUNDLE_SHORT = ("bundle-short", "down")
    BUNDLE_ASTRAY = ("bundle-short", "astray")
    LOOP = ("loop", "")
    BYPASS = ("bypass", "")
    SPEED_DIFFERS = ("speed-differs", "")
    DUPLEX_DIFFERS = ("duplex-differs", "")
    MTU_DIFFERS = ("mtu-differs", "")
    TAG_PROTOCOL_DIFFERS = ("tag-protocol-differs", "")
    MEMBERS_UNLIKE = ("members-unlike", "")
    HOST_CUT = ("host-cut", "")
    INLINE_ALONE = ("inline-alone", "")
    PAIR_UNUSED = ("pair-unused", "")
    PORT_OPEN = ("port-open", "")
    FIREWALL_PORT_OPEN = ("firewall-port-open", "")
    FIREWALL_PORT_OPEN_INTO = ("firewall-port-open", "into zones")
    # segments
    TABLE_LACKS = ("table-lacks", "")
    DEFAULT_LEFT = ("default-left", "")
    UNTAGGED_SEVERAL = ("untagged-several", "")
    UNTAGGED_ONE_WAY = ("untagged-several", "no PVID")
    VLAN_UNUSED = ("vlan-unused", "")
    LIMIT_VLANS = ("limit-vlans", "")
    LIMIT_PASSED = ("limit-passed", "")
    LIMIT_UNTAGGED = ("limit-passed", "always untagged")
    LIMIT_ONE_UNTAGGED = ("limit-passed", "one untagged")
    LIMIT_DEDICATED = ("limit-passed", "dedicated")
    ISLAND = ("island", "")
    MERGED = ("merged", "")
    INTERFACE_APART = ("interface-apart", "")
    BRIDGED_BARE = ("bridged-bare", "")
    BRIDGED_BARE_MATES = ("bridged-bare", "mates")
    TAG_FOREIGN = ("tag-foreign", "")
    PVID_OUTSIDE = ("pvid-outside", "")
    ONE_WAY = ("one-way", "")
    ACCEPT_SHUTS = ("accept-shuts", "")
    NATIVE_DIFFERS = ("native-differs", "")
    TAG_ONE_SIDED = ("tag-one-sided", "")
    NAMES_ALIKE = ("names-alike", "")
    RUNNING_EDITED = ("running-behind", "edited")
    RUNNING_ACTIVE = ("running-behind", "active")
    RUNNING_UNKNOWN = ("running-behind", "unknown")
    # routing
    INTERFACE_DOWN = ("interface-down", "")
    ROUTE_INACTIVE = ("route-inactive", "")
    ROUTE_BACKUP = ("route-backup", "")
    ADDRESS_TWICE = ("address-twice", "")
    ADDRESS_MISSING = ("address-missing", "")
    ADDRESS_OFF_PLAN = ("address-off-plan", "")
    ADDRESS_ELSEWHERE = ("address-elsewhere", "")
    MASK_OF_INTERFACE = ("mask-differs", "interface")
    MASK_OF_HOST = ("mask-differs", "host")
    SUBNET_OVERLAP = ("subnet-overlap", "")
    BOUNDARY_SUBNETS = ("boundary-subnets", "")
    GATEWAY_NOBODY = ("gateway-wrong", "nobody")
    GATEWAY_BEYOND = ("gateway-wrong", "beyond")
    GATEWAY_HANDED_OUT = ("gateway-wrong", "handed out")
    GATEWAY_HANDED_OUT_LOST = ("gateway-wrong", "handed out, lost")
    GATEWAY_MISSING = ("gateway-missing", "")
    GATEWAY_CHOICE = ("gateway-choice", "")
    NEIGHBOUR_APART = ("neighbour-apart", "")
    ROUTER_ID_TWICE = ("router-id-twice", "")
    BACKBONE_SPLIT = ("backbone-split", "")
    BACKBONE_MISSING = ("backbone-split", "missing")
    OSPF_TO_USERS = ("ospf-to-users", "")
    ROUTES_APART = ("routes-apart", "")
    PREFIX_UNTOLD = ("prefix-untold", "")
    TUNNEL_DOWN = ("tunnel-down", "")
    SELECTORS_UNLIKE = ("selectors-unlike", "")
    TUNNEL_SECRET_DEFAULT = ("tunnel-secret", "")
    TUNNEL_PROTOCOL_WEAK = ("tunnel-weak", "")
    TUNNEL_OVERLAPS = ("tunnel-overlaps", "")
    TUNNEL_TOO_LONG = ("tunnel-too-long", "")
    OVERLAY_TOO_LONG = ("tunnel-too-long", "overlay")
    FRAGMENTS_UNTOLD = ("fragments-untold", "")
    UNDERLAY_LOST = ("underlay-lost", "")
    SOURCE_MISSING = ("underlay-lost", "no source")
    RD_TWICE = ("rd-twice", "")
    VNI_TWICE = ("vni-twice", "")
    VNI_OF_BOTH = ("vni-twice", "of both layers")
    VNIS_DIFFER = ("vnis-differ", "")
    TARGETS_APART = ("targets-apart", "")
    TARGET_SHARED = ("target-shared", "")
    TARGET_ONE_WAY = ("target-shared", "one way")
    IRB_OTHER_VRF = ("irb-vrf", "")
    IRB_MISSING = ("irb-vrf", "missing")
    ADVERTISED_FOREIGN = ("advertised-foreign", "")
    LEASE_NONE = ("lease-none", "")
    RELAY_NOWHERE = ("relay-nowhere", "")
    LEASE_TWICE = ("lease-range", "twice")
    LEASE_OUTSIDE = ("lease-range", "outside")
    LEASE_OWN = ("lease-range", "own")
    LEASE_GATEWAY = ("lease-range", "gateway")
    LEASE_KEPT_OUTSIDE = ("lease-range", "kept outside")
    LEASE_KEPT_TWICE = ("lease-range", "kept twice")
    LEASE_TWO = ("lease-two", "")
    LEASE_YIELDS = ("lease-yields", "")
    LEASE_NAMES_NOBODY = ("lease-names", "nobody")
    LEASE_NAMES = ("lease-names", "")
    HOST_NAMES = ("host-names", "")
    LEASE_GATEWAYLESS = ("lease-gatewayless", "")
    LEASE_HOLDS_HOST = ("lease-holds-host", "")
    LEASE_OFF = ("lease-off", "")
    LEASE_MISSING = ("lease-missing", "")
    # reach
    FRAMES_LOST = ("frames-lost", "")
    GATEWAY_LOST = ("gateway-lost", "")
    ROUTE_MISSING = ("route-missing", "")
    RETURN_MISSING = ("return-missing", "")
    ANSWER_MISSING = ("lease-none", "reach")
    PRIVATE_OUTSIDE = ("private-outside", "")
    NAT_UNRULED = ("nat-unruled", "")
    NAT_UNRULED_HIDES = ("nat-unruled", "hides")
    VISITORS_INSIDE = ("visitors-inside", "")
    MANAGEMENT_OPEN = ("management-open", "")
    ANSWERS_RISKY = ("answers-risky", "")
    ANSWERS_EVERYTHING = ("answers-risky", "everything")
    # zones
    ZONE_KIND = ("zone-kind", "")
    ZONE_MISSING = ("zone-missing", "")
    RULE_SHADOWED = ("rule-shadowed", "")
    RULE_SHADOWED_AGAINST = ("rule-shadowed", "against")
    RULE_REDUNDANT = ("rule-redundant", "")
    RULE_UNMET = ("rule-unmet", "")
    RULE_ANY = ("rule-any", "")
    RULE_COVERS_OUTSIDE = ("rule-covers-outside", "")
    RULE_SWITCHED = ("rule-elsewhere", "switched")
    RULE_ELSEWHERE = ("rule-elsewhere", "another way")
    RULE_UNPUBLISHED = ("rule-unpublished", "")
    UNUSED_ADDRESSES = ("unused", "address set")
    UNUSED_SERVICES = ("unused", "service set")
    UNUSED_VRF = ("unused", "VRF")
    UNUSED_ZONE = ("unused", "zone")
    UNUSED_FILTER = ("unused", "filter")
    UNUSED_ANSWERS = ("unused", "answers")
    ROUTE_NEVER_WINS = ("unused", "route")
    SSID_OPEN = ("ssid-open", "")
    # failover
    PAIR_UNSETTLED = ("pair-unsettled", "")
    PAIR_UNLIKE = ("pair-unlike", "")
    PAIR_CABLED_UNLIKE = ("pair-cabled-unlike", "")
    PAIR_PORT_DOWN = ("pair-port-down", "")
    PAIR_SEGMENTS_DIFFER = ("pair-segments-differ", "")
    HEARTBEAT_NONE = ("heartbeat-none", "")
    HEARTBEAT_ONE = ("heartbeat-one", "")
    HEARTBEAT_ONE_BARE = ("heartbeat-one", "bare")
    HEARTBEAT_ASTRAY = ("heartbeat-astray", "")
    HEARTBEAT_NOWHERE = ("heartbeat-astray", "nowhere")
    HEARTBEAT_SWITCHED = ("heartbeat-switched", "")
    WATCH_FORGETS = ("watch-forgets", "")
    WATCH_IDLE = ("watch-idle", "")
    PREEMPT_UNSAID = ("pair-unsaid", "preempt")
    SESSIONS_UNSAID = ("pair-unsaid", "sync_sessions")
    BOTH_UNSAID = ("pair-unsaid", "preempt, sync_sessions")
    SESSIONS_UNSYNCED = ("sessions-unsynced", "")
    SECRET_DEFAULT = ("secret-default", "")
    DRILL_MISSING = ("drill-missing", "")
    # expectations
    EXPECTATION_BROKEN = ("expectation-broken", "")
    EXPECTATION_UNKNOWN = ("expectation-unknown", "")

    @property
    def code(self) -> str:
        """Return the code in the catalogue of findings."""
        return self.value[0]


@dataclass(frozen=True)
class Unlike:
    """One thing in which two are not alike."""

    what: str
    one: str
    two: str


Detail = str | int | Cause | Ground | tuple[str, ...] | tuple[int, ...] | tuple[Unlike, ...]
"""One value in what a finding says; several of a kind in order."""
Details = Mapping[str, Detail]


def detail(value: object) -> Detail:
    """Return a value as a finding carries it: numbers, names and facts as they are, lists as tuples, addresses and prefixes as written."""
    if isinstance(value, str | int | Cause | Ground):
        return value
    return tuple(value) if isinstance(value, list | tuple | set | frozenset | dict) else str(value)
