"""One sentence for everything that a finding may say."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from string import Formatter
from typing import Any

from anabasis.facts import Cause, Details, Ground, Says, Unlike
from anabasis.wording.causes import frames, say
from anabasis.wording.verdicts import shown_by

FEW = 4
"""How many names a sentence lists where it lists a few."""

KINDS = {
    "vlans": "VLANs",
    "addresses": "address sets",
    "services": "service sets",
    "devices": "boxes",
}
"""What things of a kind are called, where that is not the name of the kind."""

SAID: dict[Says, str] = {
    Says.BUNDLE_DOWN: "{cause}.",
    Says.BUNDLE_SHORT: "{bundle} runs on {working} of {members} members: {why}.",
    Says.BUNDLE_ASTRAY: "{bundle} runs on {working} of {members} members: {member} leads to {far}.",
    Says.LOOP: "The cable from {one} to {two} closes a loop among devices without spanning tree.",
    Says.BYPASS: "Frames leave {device} at {left} and come to {entered} around the filter between them.",
    Says.SPEED_DIFFERS: "There is no link: {cause}.",
    Says.DUPLEX_DIFFERS: "{one} is {mine} duplex, {two} at the other end is {theirs} duplex.",
    Says.MTU_DIFFERS: "{one} takes frames of {mine} bytes, {two} at the other end takes frames of {theirs} bytes.",
    Says.TAG_PROTOCOL_DIFFERS: "{one} writes tags as {mine}, {two} at the other end writes tags as {theirs}.",
    Says.MEMBERS_UNLIKE: "{port} has members of {speeds:and} Mbit/s.",
    Says.HOST_CUT: "{device} is cut off: {cause}.",
    Says.INLINE_ALONE: "{cause}.",
    Says.PAIR_UNUSED: "The inline pair {pair} of {device} has no cable at port {end}.",
    Says.PORT_OPEN: "{device}: enabled ports without a cable or a note stand in live VLANs: {ports:list}.",
    Says.FIREWALL_PORT_OPEN: "{device}: enabled ports without a cable or a note: {ports:list}.",
    Says.FIREWALL_PORT_OPEN_INTO: "{device}: enabled ports without a cable or a note: {ports:list}: whoever plugs in is in {zones:list}.",
    Says.TABLE_LACKS: "{port} is a member of VLAN {vlan}, which the VLAN table of {device} does not have.",
    Says.DEFAULT_LEFT: "{port} is in VLAN {pvid}, and still sends the default VLAN {default} without tags.",
    Says.UNTAGGED_SEVERAL: "{port} sends VLANs {vlans:list} without tags; what comes back goes into {pvid}.",
    Says.UNTAGGED_ONE_WAY: "{port} sends VLANs {vlans:list} without tags; what comes back goes into none.",
    Says.VLAN_UNUSED: "VLAN {vlan} ({name}) is used nowhere.",
    Says.LIMIT_VLANS: "{device} has {count} VLANs and can hold {most}.",
    Says.LIMIT_PASSED: "{device} has {count} {what} and can hold {most}.",
    Says.LIMIT_UNTAGGED: "{port} is not untagged in VLAN {vlan}, which no port of {device} can be taken out of.",
    Says.LIMIT_ONE_UNTAGGED: "{port} is untagged in {count} VLANs; a port of {device} can be in one only.",
    Says.LIMIT_DEDICATED: "{port} has an address of its own and subinterfaces; a port of {device} has one or the other.",
    Says.ISLAND: "VLAN {vlan} has fallen into {count} islands, {islands:list}: {cause}.",
    Says.MERGED: "{vlans:VLANs} are one broadcast domain, {segment}.",
    Says.INTERFACE_APART: "{interface} exchanges no frames with its VLAN: {cause}.",
    Says.BRIDGED_BARE: "{cause}.",
    Says.BRIDGED_BARE_MATES: "{port} and {mates:list} share a zone but no VLAN, so they exchange no frames.",
    Says.TAG_FOREIGN: "{port} leads to {host} and carries VLAN {vlans:list} as well, in which nobody stands there.",
    Says.PVID_OUTSIDE: "{port} puts untagged frames into VLAN {pvid} (its PVID) but is no member of it, so they are dropped.",
    Says.ONE_WAY: "{form:Frames} pass from {near} to {far}, and not back.",
    Says.ACCEPT_SHUTS: "{port} carries VLAN {vlans:list} and admits no such frames: it accepts {accept} ones only.",
    Says.NATIVE_DIFFERS: "{one} puts untagged frames into VLAN {mine}, {two} at the other end into VLAN {theirs}.",
    Says.TAG_ONE_SIDED: "{near} carries VLAN {vlan}, {far} at the other end drops it.",
    Says.NAMES_ALIKE: "{where:Where} {kind:kind} {names:quoted} look alike.",
    Says.RUNNING_EDITED: "{device} has this as an edit that is not in force yet: what is computed here speaks of the design.",
    Says.RUNNING_ACTIVE: "{device} runs this, but has not saved it over a restart: what is computed here speaks of the design.",
    Says.RUNNING_UNKNOWN: "{device} may run something else: nobody has looked: what is computed here speaks of the design.",
    Says.INTERFACE_DOWN: "{interface} ({addresses:list}) is down: {cause}.",
    Says.ROUTE_INACTIVE: "{device}: the route to {to} by {by} in VRF {vrf} is inactive: {cause}.",
    Says.ROUTE_BACKUP: "{device}: the route to {to} by {by} in VRF {vrf} is inactive: {cause}; {backup} stands in.",
    Says.ADDRESS_TWICE: "{cause}.",
    Says.ADDRESS_MISSING: "{interface} has no address, so nothing is routed by it.",
    Says.ADDRESS_OFF_PLAN: "{cause}.",
    Says.ADDRESS_ELSEWHERE: "{cause}.",
    Says.MASK_OF_INTERFACE: "{cause}.",
    Says.MASK_OF_HOST: "{host} has {address}, but the subnet it stands in is {subnet}.",
    Says.SUBNET_OVERLAP: "{device} has {mine} on {one} and {theirs} on {two}, in one VRF ({vrf}).",
    Says.BOUNDARY_SUBNETS: "{one} and {two} are one link with a boundary between, but share no subnet: {mine} and {theirs}.",
    Says.GATEWAY_NOBODY: "{host} has the gateway {gateway}, but no device that routes has it.",
    Says.GATEWAY_BEYOND: "{host} has the gateway {gateway}, but it lies in none of its subnets.",
    Says.GATEWAY_HANDED_OUT: "{server} hands out the gateway {gateway}, which no device that routes has.",
    Says.GATEWAY_HANDED_OUT_LOST: "{server} hands out the gateway {gateway}: {cause}.",
    Says.GATEWAY_MISSING: "{segment} ({subnet}): {cause}.",
    Says.GATEWAY_CHOICE: "{segment} ({subnet}): {cause}.",
    Says.NEIGHBOUR_APART: "{cause}.",
    Says.ROUTER_ID_TWICE: "{one} and {two} have one router id, {id}: what the one tells is taken for the other's.",
    Says.BACKBONE_SPLIT: "The backbone of OSPF has fallen apart: {one} and {two} are in area 0 and have no way through it to each other.",
    Says.BACKBONE_MISSING: "{device} joins areas {areas:and} and not the backbone: of what lies beyond them it hears nothing, and tells nothing.",
    Says.ROUTES_APART: "{device} has learnt {to} by OSPF ({learnt}), and a static route leads it elsewhere ({static}): the static one wins, and no preference says that it should.",
    Says.OSPF_TO_USERS: "{interface} speaks OSPF where hosts stand ({segment}): whoever plugs in there may tell it routes.",
    Says.PREFIX_UNTOLD: "{cause}.",
    Says.TUNNEL_DOWN: "{cause}.",
    Says.SELECTORS_UNLIKE: "{one} and {two} do not carry the same: what one sends from here the other does not take as from there.",
    Says.TUNNEL_SECRET_DEFAULT: "{tunnel} of {device} has the maker's default secret.",
    Says.TUNNEL_PROTOCOL_WEAK: "{tunnel} of {device} speaks pptp, which is easily broken.",
    Says.TUNNEL_OVERLAPS: "{tunnel} of {device} carries {here} from here and {there} to there, which overlap.",
    Says.OVERLAY_TOO_LONG: "{interface} leads to {far} on the overlay and carries packets of {mtu} bytes: with the {overhead} that the overlay adds, those of hosts of 1500 do not fit, and boxes of an overlay cut nothing.",
    Says.FRAGMENTS_UNTOLD: "{tunnel} of {device} takes packets of {mtu} bytes, and the filter '{filter}' of {interface} drops what would tell hosts there that theirs are too long: large packets vanish, small ones pass.",
    Says.UNDERLAY_LOST: "{cause}.",
    Says.SOURCE_MISSING: "VRF {vrf} of {device} has route targets and no source, so it takes no part in the overlay.",
    Says.RD_TWICE: "{one} and {two} of {device} have one distinguisher, {rd}: the routes of one hide those of the other.",
    Says.VNI_TWICE: "VNI {vni} is given to VLAN {one} and to VLAN {two} of {device}.",
    Says.VNI_OF_BOTH: "VNI {vni} is that of VLAN {vlan} on {device} and that of VRF {vrf} on {far}.",
    Says.VNIS_DIFFER: "VLAN {vlan} of {one} has VNI {mine} on {device} and VNI {theirs} on {far}, so they are not joined.",
    Says.TARGETS_APART: "{one} of {device} imports none of the route targets that {two} of {far} exports, though both have VNI {vni}.",
    Says.TARGET_SHARED: "VRF {one} of {device} and VRF {two} of {far} take each other's routes, by {target}; {name} keeps them apart.",
    Says.TARGET_ONE_WAY: "VRF {one} of {device} takes the routes of VRF {two} of {far}, by {target}; {name} keeps them apart.",
    Says.IRB_OTHER_VRF: "The gateway of VLAN {vlan} on {device} stands in VRF {vrf}; on {far} it stands in VRF {other}.",
    Says.IRB_MISSING: "VLAN {vlan} on the overlay names its gateway on {device}, which has no interface in it.",
    Says.ADVERTISED_FOREIGN: "VRF {vrf} of {device} advertises {prefix}, which is no subnet of it.",
    Says.TUNNEL_TOO_LONG: "{tunnel} of {device} takes packets of {mtu} bytes; {protocol} leaves {most} of 1500.",
    Says.LEASE_NONE: "{host} asks for a lease and gets none: {cause}.",
    Says.RELAY_NOWHERE: "{relay} relays DHCP in vain: {cause}.",
    Says.LEASE_TWICE: "{server} hands out {range}, which {other} hands out as well.",
    Says.LEASE_OUTSIDE: "{server} hands out {range}, which does not lie inside a subnet of its interface.",
    Says.LEASE_OWN: "{server} hands out {range}, and its own address {address} with it.",
    Says.LEASE_GATEWAY: "{server} hands out {range}, and the gateway's address {address} with it.",
    Says.LEASE_KEPT_OUTSIDE: "{server} keeps {address} for {host}, which lies outside the subnets of its interface.",
    Says.LEASE_KEPT_TWICE: "{server} keeps {address} for {one} and for {two}.",
    Says.LEASE_TWO: "Two DHCP servers answer in {segment}: {one} and {two}.",
    Says.LEASE_YIELDS: "{server} stands down only while it hears {other}.",
    Says.LEASE_NAMES_NOBODY: "{server} hands out the name server {address}, which nobody can be.",
    Says.LEASE_NAMES: "{server} hands out the name server {address}, which its clients do not reach: {cause}.",
    Says.HOST_NAMES: "{host} gets no answer when it asks for a name: {cause}.",
    Says.LEASE_GATEWAYLESS: "{server} hands out no gateway, so its clients get no further than their link.",
    Says.LEASE_HOLDS_HOST: "{host} has {address}, which {server} may hand to somebody else.",
    Says.LEASE_OFF: "The DHCP server of {server} is off, and {segment} has no other.",
    Says.LEASE_MISSING: "{segment} is routed and has places for hosts, but no DHCP server or relay, and does not say that this is on purpose.",
    Says.FRAMES_LOST: "From {source} to {target}{more:pairs}: {cause}.",
    Says.GATEWAY_LOST: "From {source} to {target}{more:pairs}: {cause}.",
    Says.ROUTE_MISSING: "From {source} to {target}{more:pairs}: {cause}.",
    Says.RETURN_MISSING: "From {source} to {target}{more:pairs}: {cause}.",
    Says.ANSWER_MISSING: "From {source} to {target}{more:pairs}: {cause}.",
    Says.PRIVATE_OUTSIDE: "From {sources:list} to {target}: {cause}. It needs translation here, or a route back there.",
    Says.NAT_UNRULED: "{device}: translation {entry} leads to {address}, but no rule lets anything from {sources:or} into {targets:or}.",
    Says.NAT_UNRULED_HIDES: "{device}: translation {entry} leads to what it hides, but no rule lets anything from {sources:or} into {targets:or}.",
    Says.VISITORS_INSIDE: "{segment} is for visitors and reaches {reached:few}.",
    Says.MANAGEMENT_OPEN: "{device} can be run ({services:list}) from {others:few}: not only from the VLAN for management.",
    Says.ANSWERS_RISKY: "{interface} answers {services:list} to {segment} (from {address}).",
    Says.ANSWERS_EVERYTHING: "{interface} answers every service to {segment} (from {address}).",
    Says.ZONE_KIND: "Zone {zone} is {kind} and holds the {wanted} {interfaces:list}, so nothing passes there.",
    Says.ZONE_MISSING: "{interface} is in no zone, so nothing passes it.",
    Says.RULE_SHADOWED: "{device}: rule {rule} decides nothing: {others:list} above takes all of it.",
    Says.RULE_SHADOWED_AGAINST: "{device}: rule {rule} decides nothing: {others:list} above takes all of it with the opposite action.",
    Says.RULE_REDUNDANT: "{device}: rule {rule} changes nothing: {others:and} would decide the same without it.",
    Says.RULE_UNMET: "{device}: rule {rule} is never met: no route brings such traffic here.",
    Says.RULE_ANY: "{device}: rule {rule} lets everything pass to everywhere.",
    Says.RULE_COVERS_OUTSIDE: "{device}: rule {rule} says any zone and any destination, which covers the outside ({zones:and}) as well.",
    Says.RULE_SWITCHED: "{device}: rule {rule} decides nothing: traffic inside {segment} is switched, and never meets {device}.",
    Says.RULE_ELSEWHERE: "{device}: rule {rule} decides nothing: traffic from {source} to {target} takes another way, and never meets {device}.",
    Says.RULE_UNPUBLISHED: "{device}: rule {rule} lets {zones:and} in to private addresses, and no translation leads there.",
    Says.UNUSED_ADDRESSES: "The address set {name} is used nowhere.",
    Says.UNUSED_SERVICES: "The service set {name} is used nowhere.",
    Says.UNUSED_VRF: "{device}: VRF {name} is used nowhere.",
    Says.UNUSED_ZONE: "{device}: zone {name} is used nowhere.",
    Says.UNUSED_ANSWERS: "{device}: the answers {name} is used nowhere.",
    Says.UNUSED_FILTER: "{device}: filter {name} stands at no interface.",
    Says.ROUTE_NEVER_WINS: "{device}: the route to {to} by {by} never wins: {interface} is in that subnet itself.",
    Says.SSID_OPEN: "Anybody in range joins {ssid} of {device}, and stands in VLAN {vlan} ({name}), which is not for visitors.",
    Says.PAIR_UNSETTLED: "{device} has two units and no failover settings: they do not know each other.",
    Says.PAIR_UNLIKE: "{one} and {two} differ ({traits:unlike}): units of a pair must be alike, or they refuse each other.",
    Says.PAIR_CABLED_UNLIKE: "{has}:{port} is cabled, {lacks}:{port} is not: when {lacks} is active, what is there is cut off.",
    Says.PAIR_PORT_DOWN: "{down} is down and {up} works: when {unit} is active, what is there is cut off ({cause}).",
    Says.PAIR_SEGMENTS_DIFFER: "{one} leads to {far_one} and {two} to {far_two}, which are not in the same VLANs: the units do not stand in the same segments.",
    Says.HEARTBEAT_NONE: "{device} has no heartbeat that works: each unit takes the other for dead, and both are active.",
    Says.HEARTBEAT_ONE: "{device} has one heartbeat only ({port}): one cable, or one port, and the units no longer hear each other.",
    Says.HEARTBEAT_ONE_BARE: "{device} has one heartbeat only ({port}): {bare} has no cable.",
    Says.HEARTBEAT_ASTRAY: "Heartbeat {port} leads to {far}, not to a heartbeat of {unit}.",
    Says.HEARTBEAT_NOWHERE: "Heartbeat {port} leads to nothing, not to a heartbeat of {unit}.",
    Says.HEARTBEAT_SWITCHED: "Heartbeat {port} goes through a switch: when that dies, both units take each other for dead.",
    Says.WATCH_FORGETS: "{device} does not watch {ports:list}: when it goes down on the active unit, nobody takes over.",
    Says.WATCH_IDLE: "{device} watches {ports:list}, which has no cable on either unit: it tells nothing.",
    Says.PREEMPT_UNSAID: "{device} does not say whether the unit of the better priority takes over again when it is back (preempt): boxes differ in what they do then.",
    Says.SESSIONS_UNSAID: "{device} does not say whether sessions live on (sync_sessions): boxes differ in what they do then.",
    Says.BOTH_UNSAID: "{device} does not say whether the unit of the better priority takes over again when it is back (preempt) and whether sessions live on (sync_sessions): boxes differ in what they do then.",
    Says.SESSIONS_UNSYNCED: "{device} does not sync sessions: whoever is connected when a unit fails has to connect again.",
    Says.SECRET_DEFAULT: "The units of {device} know each other by the maker's default secret: any box of that make may pose as one.",
    Says.DRILL_MISSING: "No failover drill of {device} is recorded: nobody has seen the other unit take over.",
    Says.EXPECTATION_BROKEN: "{name}: {ground}.",
    Says.EXPECTATION_UNKNOWN: "{name}: {ground}.",
}  # fmt: skip


def tell_finding(says: Says, details: Details) -> str:
    """Return what a finding says."""
    return _WORDS.vformat(SAID[says], (), details)


def _few(names: tuple[str, ...]) -> str:
    more = f" and {len(names) - FEW} more" if len(names) > FEW else ""
    return ", ".join(names[:FEW]) + more


def _unlike(traits: Iterable[Unlike]) -> str:
    return "; ".join(f"{t.what}: {t.one} and {t.two}" for t in traits)


_FORMS: dict[str, Callable[[Any], str]] = {
    "list": lambda v: ", ".join(map(str, v)),
    "and": lambda v: " and ".join(map(str, v)),
    "or": lambda v: " or ".join(map(str, v)),
    "few": _few,
    "quoted": lambda v: " and ".join(map(repr, v)),
    "VLANs": lambda v: " and ".join(f"VLAN {n}" for n in v),
    "pairs": lambda n: f", and {n} more pairs" if n else "",
    "Frames": lambda form: f"Frames with tag {form}" if form else frames(form).capitalize(),
    "kind": lambda k: KINDS.get(k, k),
    "Where": lambda device: f"Of {device}, the" if device else "The",
    "unlike": _unlike,
}


class _Words(Formatter):
    """Fills in a sentence; a field says after its colon how several values are joined, or a value is worded."""

    def format_field(self, value: Any, format_spec: str) -> str:
        """Return one value as words."""
        if isinstance(value, Cause):
            return say(value)
        if isinstance(value, Ground):
            return shown_by(value)
        return _FORMS[format_spec](value) if format_spec else str(value)


_WORDS = _Words()
