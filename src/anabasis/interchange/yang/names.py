"""Members of the standards' modules, as RFC 7951 names them, and the revision of each module."""

from anabasis.design.devices import KINDS

REVISIONS = {
    "iana-if-type": "2023-01-26",
    "ietf-interfaces": "2018-02-20",
    "ietf-ip": "2018-02-22",
    "ietf-if-extensions": "2023-01-26",
    "ietf-if-vlan-encapsulation": "2023-01-26",
    "ieee802-dot1q-bridge": "2018-03-07",
    "ieee802-dot1ab-lldp": "2018-11-11",
    "ietf-routing": "2018-03-13",
    "ietf-ipv4-unicast-routing": "2018-03-13",
    "ietf-ipv6-unicast-routing": "2018-03-13",
    "ietf-ospf": "2022-10-19",
    "ietf-network-instance": "2019-01-21",
    "ietf-access-control-list": "2019-03-04",
    "ietf-vrrp": "2018-03-13",
    "ietf-nat": "2019-01-10",
}
"""Module -> revision: RFC 8343, 8344, 8349, 9129, 8529, 8519, 8347, 8512; IEEE 802.1Qcp, 802.1ABcu."""

OWN = "anabasis-site"
INTERFACES, INTERFACE = "ietf-interfaces:interfaces", "interface"
IPV4, IPV6 = "ietf-ip:ipv4", "ietf-ip:ipv6"
VRRP = "ietf-vrrp:vrrp"
PARENT, ENCAPSULATION = "ietf-if-extensions:parent-interface", "ietf-if-extensions:encapsulation"
DOT1Q = "ietf-if-vlan-encapsulation:dot1q-vlan"
BRIDGE_PORT, BRIDGES = "ieee802-dot1q-bridge:bridge-port", "ieee802-dot1q-bridge:bridges"
LLDP = "ieee802-dot1ab-lldp:lldp"
ROUTING = "ietf-routing:routing"
STATIC, OSPF_V2, OSPF = "ietf-routing:static", "ietf-ospf:ospfv2", "ietf-ospf:ospf"
UNICAST = {4: "ietf-ipv4-unicast-routing:ipv4", 6: "ietf-ipv6-unicast-routing:ipv6"}
INSTANCES, VRF_ROOT = "ietf-network-instance:network-instances", "ietf-network-instance:vrf-root"
OF_INSTANCE = "ietf-network-instance:bind-ni-name"
ACLS = "ietf-access-control-list:acls"
NAT = "ietf-nat:nat"
NAT_TYPE = {"basic": "ietf-nat:basic-nat44", "napt": "ietf-nat:napt44", "dst": "ietf-nat:dst-nat"}
TYPES = {
    "port": "iana-if-type:ethernetCsmacd",
    "lag": "iana-if-type:ieee8023adLag",
    "subinterface": "iana-if-type:l2vlan",
    "vlan_interface": "iana-if-type:l3ipvlan",
    "loopback": "iana-if-type:softwareLoopback",
    "tunnel": "iana-if-type:tunnel",
}
"""What an interface is (RFC 7224)."""
BRIDGE = "bridge"
"""The name of the one bridge, and of its one component, of a box."""
ACCEPT = {
    "all": "admit-all-frames",
    "tagged": "admit-only-VLAN-tagged-frames",
    "untagged": "admit-only-untagged-and-priority-tagged",
}
"""Acceptable frame types (IEEE 802.1Q-2022 clause 8.6.1)."""
MAIN = "main"
"""The VRF that is the box itself: the routing of the device, in no network instance."""

UNDERSTOOD: dict[str, frozenset[str]] = {
    parent: frozenset(children.split())
    for parent, children in {
        "": f"{INTERFACES} {BRIDGES} {LLDP} {ROUTING} {INSTANCES} {ACLS} {NAT} ietf-system:system ietf-network:networks",
        "ietf-system:system": "hostname",
        INTERFACES: INTERFACE,
        INTERFACE: f"name type enabled description oper-status admin-status if-index higher-layer-if lower-layer-if {IPV4} {IPV6} {PARENT} "
        f"{ENCAPSULATION} {BRIDGE_PORT} {OF_INSTANCE} interface-type cost passive hello-interval dead-interval priority interface-id ingress egress",
        IPV4: f"enabled forwarding address {VRRP}",
        IPV6: f"enabled forwarding address {VRRP}",
        "address": "ip prefix-length netmask",
        VRRP: "vrrp-instance",
        "vrrp-instance": "vrid version priority accept-mode virtual-ipv4-addresses virtual-ipv6-addresses",
        ENCAPSULATION: DOT1Q,
        DOT1Q: "outer-tag",
        "outer-tag": "tag-type vlan-id",
        BRIDGE_PORT: "bridge-name component-name pvid acceptable-frame enable-ingress-filtering enable-vid-translation-table vid-translations",
        BRIDGES: "bridge",
        "bridge": "name bridge-type component address",
        "component": "name type bridge-vlan filtering-database",
        "bridge-vlan": "vlan",
        "vlan": "vid name",
        "filtering-database": "vlan-registration-entry filtering-entry",
        "vlan-registration-entry": "database-id vids entry-type port-map",
        "static-vlan-registration-entries": "registrar-admin-control vlan-transmitted",
        ROUTING: "control-plane-protocols ribs router-id",
        "control-plane-protocols": "control-plane-protocol",
        "control-plane-protocol": f"type name static-routes {OSPF}",
        "static-routes": " ".join(UNICAST.values()),
        OSPF: "explicit-router-id areas",
        "areas": "area",
        "area": "area-id area-type default-cost interfaces",
        INSTANCES: "network-instance",
        "network-instance": f"name {VRF_ROOT}",
        VRF_ROOT: ROUTING,
        ACLS: "acl attachment-points",
        "acl": "name type aces",
        "ace": "name matches actions",
        "actions": "forwarding",
        "attachment-points": "interface",
        NAT: "instances",
        "instances": "instance",
        "instance": "id name enable type policy mapping-table",
        "policy": "id subscriber-match external-ip-address-pool dst-nat-enable dst-ip-address-pool external-realm",
        "mapping-table": "mapping-entry",
        "mapping-entry": "index type transport-protocol internal-src-address external-src-address internal-dst-address external-dst-address "
        "internal-dst-port external-dst-port lifetime",
    }.items()
}
"""By container the members that are read; any other is told. What stands in a container that is not here is not looked into."""
MODULES_READ = (
    INTERFACES,
    BRIDGES,
    ROUTING,
    INSTANCES,
    ACLS,
    NAT,
    LLDP,
    "ietf-system:system",
    *(f"{OWN}:{k}" for k in KINDS),
)
"""What a box is asked for, one by one, where it does not tell everything at once."""
