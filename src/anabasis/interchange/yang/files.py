"""Files of YANG data: one box, or a whole site, as an instance data set (RFC 9195); JSON (RFC 7951) in and out, XML (RFC 7950 section 9) in."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from anabasis.design import Tree, parse_design
from anabasis.design.devices import KINDS
from anabasis.design.files import parse_text
from anabasis.errors import AnabasisError, InputRefused, Problem, nearest
from anabasis.interchange.seen import Neighbour, Seen
from anabasis.interchange.topology import write_topology
from anabasis.interchange.yang.names import LLDP, MODULES_READ, OWN, REVISIONS
from anabasis.interchange.yang.own import decode, encode, overlay, rest
from anabasis.interchange.yang.reading import read_device
from anabasis.interchange.yang.walking import items, text, values
from anabasis.interchange.yang.writing import write_device
from anabasis.policy import Terms

SET, CONTENT = "ietf-yang-instance-data:instance-data-set", "content-data"
SITE, SYSTEM = f"{OWN}:site", "ietf-system:system"
LIMIT_DEPTH = 60
SHARED = ("vlans", "addresses", "services")
MODULES = {"ietf-system": "2014-08-06", **REVISIONS}


def box_data(device: Tree, plan: list[Tree], terms: Terms) -> Tree:
    """Return all that a box has to say: the standards' modules, and ours beside them."""
    out = write_device(device, plan, terms)
    own = rest(read_device(out, device["kind"]).device, device)
    return {SYSTEM: {"hostname": device["name"]}} | out | {f"{OWN}:{device['kind']}": encode(own)}


def shared(tree: Tree) -> Tree:
    """Return what a box has to know of the site beside itself: the plan, and the sets that rules name."""
    return {SITE: encode({k: tree[k] for k in SHARED if tree.get(k)})}


def write_yang(tree: Tree, device: str = "") -> str:
    """Return one box of a document, or the whole of it, as an instance data set. Raises InputRefused for a box that is not there."""
    terms, plan, devices = Terms(parse_design(tree)), tree.get("vlans", []), tree.get("devices", [])
    sets = shared(tree)
    if device:
        names = [d["name"] for d in devices]
        if device not in names:
            listed = ", ".join(names[:12])
            raise InputRefused(
                [Problem("", "there is no device of this name", repr(device), listed, nearest(device, names))]
            )
        data = box_data(devices[names.index(device)], plan, terms) | sets
    else:
        boxes = [{"name": d["name"], "content": box_data(d, plan, terms)} for d in devices]
        site = encode({k: v for k, v in tree.items() if k != "devices"})
        data = json.loads(write_topology(tree)) | {SITE: site | ({"device": boxes} if boxes else {})}
    return json.dumps({SET: _envelope(device or tree.get("name", ""), data)}, ensure_ascii=False, indent=2) + "\n"


def _envelope(name: str, data: Tree) -> Tree:
    used = dict.fromkeys(m for m in _modules(data) if m in MODULES)
    schema = {"module": [f"{m}@{MODULES[m]}" for m in used]}
    return {"name": name, "content-schema": schema, "datastore": "ietf-datastores:operational", CONTENT: data}


def _modules(data: Any) -> Iterator[str]:
    for name, value in data.items() if isinstance(data, dict) else ((None, v) for v in data):
        if name is not None and ":" in name:
            yield name.partition(":")[0]
        if isinstance(value, dict | list):
            yield from _modules(value)


def load(given: str) -> Tree:
    """Return the data of a file, out of its envelope. Raises InputRefused for what is neither JSON nor XML of modules, or too large."""
    try:
        raw = _from_xml(given) if given.lstrip().startswith("<") else parse_text(given)
    except AnabasisError:
        raise
    except (ValueError, ParseError, DefusedXmlException, RecursionError):
        raw = None
    data = raw.get(SET, {}).get(CONTENT) or raw if isinstance(raw, dict) and isinstance(raw.get(SET, {}), dict) else raw
    if not isinstance(data, dict) or not any(":" in name for name in data):
        allowed = "JSON (RFC 7951) or XML (RFC 7950) with members such as ietf-interfaces:interfaces on top"
        raise InputRefused([Problem("", "this is no data of YANG modules", allowed=allowed)])
    return data


def _from_xml(given: str) -> Tree:
    root = fromstring(given, forbid_dtd=True)
    out = _children(root, "", 0) if root.tag.endswith(("}data", "}config")) or ":" not in root.tag else {}
    if not out:
        out = {_qualified(root, ""): _children(root, _namespace(root), 1)}
    return out


def _namespace(element: Element) -> str:
    return element.tag[1:].partition("}")[0] if element.tag.startswith("{") else ""


def _module_of(namespace: str) -> str:
    """Return the module of a namespace: those of the IETF and the IEEE end in its name."""
    return OWN if namespace == "urn:anabasis:site" else namespace.rpartition(":")[2]


def _qualified(element: Element, outer: str) -> str:
    """Return the name of a node: with its module where that is another than its parent's (RFC 7951 section 4)."""
    namespace, bare = _namespace(element), element.tag.rpartition("}")[2]
    return bare if not namespace or namespace == outer else f"{_module_of(namespace)}:{bare}"


def _children(element: Element, namespace: str, depth: int) -> Tree:
    if depth > LIMIT_DEPTH:
        raise ValueError(depth)
    out: Tree = {}
    for child in element:
        name, own = _qualified(child, namespace), _namespace(child)
        value = _children(child, own, depth + 1) if len(child) else (child.text or "").strip()
        if name not in out:
            out[name] = value
        elif isinstance(out[name], list):
            out[name].append(value)
        else:
            out[name] = [out[name], value]
    return out


def boxes_of(data: Tree, name: str = "") -> list[Seen]:
    """Return the boxes that data speak of: those of a whole site, or the one whose data they are. `name`: of one that does not say it."""
    listed = items(data, SITE, "device")
    pairs = [(text(d, "name"), d.get("content")) for d in listed]
    if not listed and any(member in data for member in MODULES_READ):
        pairs = [(name, data)]
    return [seen_of(content, called) for called, content in pairs if isinstance(content, dict)]


def seen_of(data: Tree, name: str = "", by_objects: bool = False) -> Seen:
    """Return one box of its data."""
    kind = next((k for k in KINDS if isinstance(data.get(f"{OWN}:{k}"), dict)), None)
    known = read_device(data, kind)
    own = decode(data[f"{OWN}:{kind}"]) if kind else {}
    told_name = own.get("name")
    called = (told_name if isinstance(told_name, str) else "") or text(data, SYSTEM, "hostname") or name
    device = {"name": called} | overlay(known.device, own)
    told = frozenset(k for k in data if not k.startswith(f"{OWN}:"))
    near = tuple(_neighbours(data))
    return Seen(
        called,
        device,
        kind is not None,
        told,
        known.vlans,
        frozenset(known.down),
        near,
        LLDP in data,
        data,
        text(data, SYSTEM, "hostname") or called,
        site_of(data) or {},
        tuple(known.lost),
        by_objects,
    )


CAPABILITIES = {"wlan-access-point": "access-point", "station-only": "endpoint", "router": "router", "bridge": "switch"}


def _neighbours(data: Tree) -> Iterator[Neighbour]:
    for port in items(data, LLDP, "port"):
        for far in items(port, "remote-systems-data"):
            said = {word for held in values(far, "system-capabilities-enabled") for word in held.split()}
            kind = next((k for word, k in CAPABILITIES.items() if word in said), "switch")
            yield Neighbour(text(port, "name"), text(far, "system-name"), text(far, "port-id"), kind)


def site_of(data: Tree) -> Tree | None:
    """Return what our module says of a whole site, but for its boxes; None where it says nothing of one."""
    held = data.get(SITE)
    return decode({k: v for k, v in held.items() if k != "device"}) if isinstance(held, dict) else None
