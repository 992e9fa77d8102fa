"""Why something does not work, as a fact: the layer, what is wrong, the items to blame, and the values at both ends.

Every step of the climb makes causes, nothing in the program reads a sentence; `wording/causes.py` makes the sentences.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum, unique


class Layer(StrEnum):
    """Where something is wrong, from the cable up (docs/semantics.md, "Causes")."""

    LINK = "link"
    VLAN = "vlan"
    GATEWAY = "gateway"
    ROUTE = "route"
    RETURN = "return"
    ZONE = "zone"
    RULE = "rule"
    NAT = "nat"
    ANSWERS = "answers"
    ISOLATION = "isolation"
    STANDBY = "standby"
    NEIGHBOUR = "neighbour"
    TUNNEL = "tunnel"
    UNDERLAY = "underlay"
    NAME = "name"


@unique
class Wrong(StrEnum):
    """What is wrong. Each has one sentence in `wording/causes.py`."""

    # link
    BOX_FAILED = "box-failed"
    PORT_FAILED = "port-failed"
    DISABLED = "disabled"
    OFF = "off"
    NO_MODE = "no-mode"
    NO_CABLE = "no-cable"
    CABLE_BROKEN = "cable-broken"
    SPEEDS_DIFFER = "speeds-differ"
    FOLLOWS_LINK = "follows-link"
    EXPECTS_BUNDLE = "expects-bundle"
    BUNDLE_EMPTY = "bundle-empty"
    BUNDLE_UNCABLED = "bundle-uncabled"
    BUNDLE_ONE_END = "bundle-one-end"
    PROTOCOLS_DIFFER = "protocols-differ"
    BUNDLE_ASTRAY = "bundle-astray"
    BUNDLE_FEW = "bundle-few"
    TREE_BLOCKS = "tree-blocks"
    INLINE_ALONE = "inline-alone"
    NO_WAY = "no-way"
    IN_BUNDLE = "in-bundle"
    STANDS_BY = "stands-by"
    # vlan
    TAGGED_ONLY = "tagged-only"
    UNTAGGED_ONLY = "untagged-only"
    NO_PVID = "no-pvid"
    NOT_IN_TABLE = "not-in-table"
    NO_MEMBER = "no-member"
    NOT_CARRIED = "not-carried"
    OTHER_VLAN = "other-vlan"
    INLINE_TAGS = "inline-tags"
    FORMS_DIFFER = "forms-differ"
    NO_PORT_CARRIES = "no-port-carries"
    PORTS_DOWN = "ports-down"
    PORT_BARE = "port-bare"
    NO_PLACE = "no-place"
    LONE_VLAN = "lone-vlan"
    HOST_ELSEWHERE = "host-elsewhere"
    TAKES_NO_HOST = "takes-no-host"
    # isolation
    KEPT_APART = "kept-apart"
    # gateway
    SWITCHED_ONLY = "switched-only"
    SEVERAL_GATEWAYS = "several-gateways"
    NO_GATEWAY = "no-gateway"
    GATEWAY_NOBODY = "gateway-nobody"
    GATEWAY_BEYOND = "gateway-beyond"
    ADDRESS_MISTYPED = "address-mistyped"
    ADDRESS_MISSING = "address-missing"
    ROUTING_OFF = "routing-off"
    HELD_TWICE = "held-twice"
    NOBODY_THERE = "nobody-there"
    NO_INTERFACE = "no-interface"
    MASK_DIFFERS = "mask-differs"
    LINK_SUBNETS = "link-subnets"
    LEASE_WITHOUT_GATEWAY = "lease-without-gateway"
    FULL = "full"
    HOST_WITHOUT = "host-without"
    NO_LEASE = "no-lease"
    NO_FAMILY = "no-family"
    NOT_ANNOUNCED = "not-announced"
    # route
    ROUTE_OFF = "route-off"
    HOP_ZEROS = "hop-zeros"
    HOP_OWN = "hop-own"
    HOP_OUTSIDE = "hop-outside"
    HOP_OUTSIDE_OF = "hop-outside-of"
    HOP_DOWN = "hop-down"
    HOP_UNRESOLVED = "hop-unresolved"
    HOP_INACTIVE = "hop-inactive"
    HOP_NOBODY = "hop-nobody"
    NOT_LAYER3 = "not-layer3"
    INTERFACE_DOWN = "interface-down"
    ROUTE_INACTIVE = "route-inactive"
    NO_ROUTE = "no-route"
    ROUTE_ASTRAY = "route-astray"
    OTHER_VRF = "other-vrf"
    LOOP = "loop"
    VRF_LOOP = "vrf-loop"
    DISCARDED = "discarded"
    KEPT = "kept"
    BEHIND_OTHER = "behind-other"
    # neighbour
    NEIGHBOUR_UNHEARD = "neighbour-unheard"
    NEIGHBOUR_PASSIVE = "neighbour-passive"
    NEIGHBOUR_AREA = "neighbour-area"
    NEIGHBOUR_HELLO = "neighbour-hello"
    NEIGHBOUR_DEAD = "neighbour-dead"
    NEIGHBOUR_AUTH = "neighbour-auth"
    NEIGHBOUR_STUB = "neighbour-stub"
    NEIGHBOUR_NETWORK = "neighbour-network"
    NEIGHBOUR_SUBNET = "neighbour-subnet"
    NEIGHBOUR_MTU = "neighbour-mtu"
    NEIGHBOUR_ROUTER_ID = "neighbour-router-id"
    NEIGHBOUR_PRIORITY = "neighbour-priority"
    PREFIX_UNTOLD = "prefix-untold"
    DEFAULT_UNTOLD = "default-untold"
    # return
    REPLY_LOST = "reply-lost"
    ASYMMETRIC = "asymmetric"
    NO_SESSION = "no-session"
    NO_REQUEST = "no-request"
    # zone
    NO_ZONE = "no-zone"
    ZONE_KIND = "zone-kind"
    # rule
    RULE_DROPS = "rule-drops"
    RULE_OFF = "rule-off"
    DEFAULT_DROPS = "default-drops"
    BETWEEN_CLOSED = "between-closed"
    FILTER_DROPS = "filter-drops"
    FILTER_LACKS = "filter-lacks"
    # tunnel
    TUNNEL_DOWN = "tunnel-down"
    TUNNEL_OFF = "tunnel-off"
    TUNNEL_LOCAL = "tunnel-local"
    TUNNEL_LOST = "tunnel-lost"
    TUNNEL_NOBODY = "tunnel-nobody"
    TUNNEL_PROTOCOL = "tunnel-protocol"
    TUNNEL_SECRET = "tunnel-secret"
    TUNNEL_PEER = "tunnel-peer"
    TUNNEL_WAITS = "tunnel-waits"
    TUNNEL_ITSELF = "tunnel-itself"
    TUNNEL_UNASKED = "tunnel-unasked"
    TUNNEL_SELECTORS = "tunnel-selectors"
    # name
    NAME_UNKNOWN = "name-unknown"
    NAME_NOBODY = "name-nobody"
    NAME_LOST = "name-lost"
    # underlay, and what stands on it
    OVERLAY_DOWN = "overlay-down"
    UNDERLAY_LOST = "underlay-lost"
    UNDERLAY_SOURCE = "underlay-source"
    NOT_STRETCHED = "not-stretched"
    VNIS_DIFFER = "vnis-differ"
    TARGETS_APART = "targets-apart"
    NOT_IMPORTED = "not-imported"
    NOT_ADVERTISED = "not-advertised"
    WITHOUT_VNI = "without-vni"
    # nat
    PRIVATE_DROPPED = "private-dropped"
    NOT_TRANSLATED = "not-translated"
    TRANSLATION_OFF = "translation-off"
    TRANSLATION_MISSES = "translation-misses"
    NOTHING_TO_GIVE = "nothing-to-give"
    CLAIMED = "claimed"
    TRANSLATED_AWAY = "translated-away"
    # answers
    ANSWERS_NOTHING = "answers-nothing"
    NOT_ANSWERED = "not-answered"
    NOT_ACROSS = "not-across"
    NO_ACCEPT_MODE = "no-accept-mode"
    NO_SERVER = "no-server"
    SERVER_OFF = "server-off"
    SERVER_SILENT = "server-silent"
    RANGE_OUTSIDE = "range-outside"
    NOTHING_FREE = "nothing-free"
    RELAY_NOWHERE = "relay-nowhere"
    RELAY_UNANSWERED = "relay-unanswered"


Value = str | int
"""One value of a cause."""
Values = dict[str, Value]


@dataclass(frozen=True)
class Said:
    """One value of a cause, by the name its sentence calls it."""

    name: str
    value: Value


@dataclass(frozen=True)
class Cause:
    """One thing wrong. The guilty items are JSON Pointers; the first is where one goes to mend it."""

    layer: Layer
    wrong: Wrong
    guilty: tuple[str, ...]
    values: tuple[Said, ...] = ()
    under: Cause | None = None
    """What lies beneath it: this is then a mere consequence."""

    @property
    def root(self) -> Cause:
        """Return the lowest cause: the one item which, put right, lets the packet through."""
        return self if self.under is None else self.under.root

    @property
    def pointers(self) -> tuple[str, ...]:
        """Return every guilty item, the lowest cause's first."""
        below = self.under.pointers if self.under is not None else ()
        return tuple(dict.fromkeys((*below, *(g for g in self.guilty if g))))

    @property
    def what(self) -> object:
        """Return what tells it apart wherever in the document its items stand."""
        return self.layer, self.wrong, self.values, self.under.what if self.under is not None else None

    @property
    def known(self) -> Values:
        """Return the values by name."""
        return {v.name: v.value for v in self.values}

    def value(self, name: str) -> Value:
        """Return one value."""
        return self.known[name]


def because(
    layer: Layer,
    wrong: Wrong,
    *guilty: str,
    under: Cause | None = None,
    values: Mapping[str, Value] | None = None,
    **more: Value,
) -> Cause:
    """Return a cause; the layer is that of what lies beneath it, where anything does."""
    lowest = under.layer if under is not None else layer
    said = tuple(Said(name, value) for name, value in {**(values or {}), **more}.items())
    return Cause(lowest, wrong, tuple(dict.fromkeys(g for g in guilty if g)), said, under)
