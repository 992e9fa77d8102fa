"""The text of our YANG module `anabasis-site` (RFC 7950), written from the models of the document, so that it says what they say."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from anabasis.design import json_schema
from anabasis.interchange.yang.names import OWN
from anabasis.interchange.yang.own import EITHER, END, KEY, KEYS, MARKS, POSITION, VALUE

NAMESPACE = "urn:anabasis:site"
REVISION = "2026-11-29"
DEFS = "#/$defs/"
Lines = Iterator[str]

HEAD = f"""module {OWN} {{
  yang-version 1.1;
  namespace "{NAMESPACE}";
  prefix site;

  import ietf-network {{ prefix nw; }}
  import ietf-network-topology {{ prefix nt; }}

  organization "Anabasis";
  contact "See the documentation that comes with the program.";
  description
    "What a design says beyond the modules of the standards: zones, inline pairs, rules, failover, expectations, the plan of VLANs.
     A box has one container, called after its kind, beside the data of the standards' modules; what stands there is put on top of what
     those say. Written from the models of the document; every node is optional, for a part holds what the standards leave unsaid.";

  revision {REVISION} {{
    description "First published.";
  }}
"""
MARKED = {
    MARKS[0]: "Settings that the standards' data say and the document leaves out.",
    MARKS[1]: "Lists that replace what the standards' data say, instead of adding to their entries.",
    MARKS[2]: "Lists, or containers (with braces), that are there and hold nothing.",
    MARKS[3]: "Settings that are there and have no value.",
}
TAIL = """
  container site {
    description "A whole site: its plan, its cables, what it is expected to do, and its boxes.";
    uses design;
    list device {
      key name;
      description "One box.";
      leaf name { type string; description "Its name."; }
      anydata content { description "The data of its modules, as a box of its own would have them on top."; }
    }
  }
  augment "/nw:networks/nw:network/nw:node" {
    description "What a box of the cabling is.";
    container box {
      description "Its kind.";
      leaf kind { type string; description "switch, router, firewall, hub, access-point, endpoint or outside."; }
      leaf device { type string; description "The pair that it is a unit of."; }
    }
  }
  augment "/nw:networks/nw:network/nw:node/nt:termination-point" {
    description "What is no port.";
    container ssid {
      description "A wireless network.";
      leaf vlan { type uint16; description "The VLAN of its stations."; }
    }
  }
}
"""


def module_text() -> str:
    """Return the module, sorted so that the same models give the same text."""
    schema = json_schema_of()
    parts = schema["$defs"]
    out = [HEAD, "  grouping marks {", '    description "What YANG has no word for.";']
    out += [f"    leaf-list {m} {{ type string; description {_quoted(MARKED[m])}; }}" for m in MARKS]
    place = "Its place in a list whose entries nothing else tells apart."
    out += [f"    leaf {POSITION} {{ type uint32; description {_quoted(place)}; }}", "  }"]
    devices = parts_of_devices(schema)
    for name in sorted(parts):
        out += _grouping(_kebab(name), parts[name], parts)
    out += _grouping("design", schema, parts, leave_out=("devices",))
    for kind, name in sorted(devices.items()):
        out += [f"  container {kind} {{", '    description "A box of this kind."; ', f"    uses {_kebab(name)};", "  }"]
    return "\n".join(line.rstrip() for line in out) + TAIL


def json_schema_of() -> dict[str, Any]:
    """Return the schema of the document as data."""
    held: dict[str, Any] = json.loads(json_schema())
    return held


def parts_of_devices(schema: dict[str, Any]) -> dict[str, str]:
    """Return kind of box -> its model."""
    mapping = schema["properties"]["devices"]["items"]["discriminator"]["mapping"]
    return {kind: ref.removeprefix(DEFS) for kind, ref in mapping.items()}


def _grouping(name: str, model: dict[str, Any], parts: dict[str, Any], leave_out: tuple[str, ...] = ()) -> Lines:
    yield f"  grouping {name} {{"
    yield f"    description {_quoted(model.get('description', ''))};"
    yield "    uses marks;"
    for key, said in model.get("properties", {}).items():
        if key not in leave_out:
            yield from ("    " + line for line in _node(key, said, parts))
    yield "  }"


def _node(key: str, said: dict[str, Any], parts: dict[str, Any]) -> Lines:
    """Yield the nodes of one setting: one that may be a word or a list has two."""
    name, about = key.replace("_", "-"), f"description {_quoted(said.get('description') or said.get('title', key))};"
    wanted = [a for a in said.get("anyOf", [said]) if a.get("type") != "null"]
    lists = [a for a in wanted if a.get("type") == "array"]
    plain = [a for a in wanted if a.get("type") != "array"]
    for one in lists:
        yield from _list(f"{name}-list" if key in EITHER and plain else name, one["items"], about, parts)
    if plain and "$ref" in plain[0] and "properties" in parts[_last(plain[0])]:
        yield f"container {name} {{ {about} uses {_kebab(_last(plain[0]))}; }}"
    elif plain and plain[0].get("type") == "object":
        leaves = (
            f'leaf {n} {{ type {t} description "The {n}."; }}' for n, t in ((KEY, "string;"), (VALUE, VALUE_TYPE))
        )
        yield f"list {name} {{ key {KEY}; {about} {' '.join(leaves)} }}"
    elif plain:
        yield f"leaf {name} {{ {_type(plain, parts)} {about} }}"


VALUE_TYPE = "union { type int32; type string; }"


def _list(name: str, item: dict[str, Any], about: str, parts: dict[str, Any]) -> Lines:
    model = parts.get(_last(item), {}) if "$ref" in item else {}
    if "properties" in model:
        key = next((k for k in KEYS if k in model.get("required", ())), POSITION)
        yield f"list {name} {{ key {key}; ordered-by user; {about} uses {_kebab(_last(item))}; }}"
    elif item.get("type") == "array":
        nodes = f'leaf {POSITION} {{ type uint32; description "Its place."; }}'
        ends = f'leaf-list {END} {{ type string; description "Its two ends."; }}'
        yield f"list {name} {{ key {POSITION}; {about} {nodes} {ends} }}"
    else:
        yield f"leaf-list {name} {{ {_type([item], parts)} ordered-by user; {about} }}"


def _type(wanted: list[dict[str, Any]], parts: dict[str, Any]) -> str:
    kinds = list(dict.fromkeys(k for one in wanted for k in _scalars(one, parts)))
    if len(kinds) == 1:
        return f"type {kinds[0]}"
    return "type union { " + " ".join(f"type {k}" for k in kinds) + " }"


def _scalars(one: dict[str, Any], parts: dict[str, Any]) -> Lines:
    """Yield the YANG types of a value, each with its end."""
    if "$ref" in one:
        one = parts[_last(one)]
    for inner in one.get("anyOf", [one]):
        words = inner.get("enum") or ([inner["const"]] if "const" in inner else [])
        if words and all(isinstance(w, str) for w in words):
            yield "enumeration { " + " ".join(f'enum "{w}";' for w in words) + " }"
        elif inner.get("type") == "boolean":
            yield "boolean;"
        elif inner.get("type") == "integer" or words:
            low, high = inner.get("minimum", min(words, default=0)), inner.get("maximum", max(words, default=2**32 - 1))
            yield f'uint32 {{ range "{low}..{high}"; }}' if low != high else f'uint32 {{ range "{low}"; }}'
        elif inner.get("type") != "null":
            yield "string;"


def _last(one: dict[str, Any]) -> str:
    return str(one.get("$ref", "")).removeprefix(DEFS)


def _kebab(name: str) -> str:
    return "".join(f"-{c.lower()}" if c.isupper() and k else c.lower() for k, c in enumerate(name))


def _quoted(text: str) -> str:
    held = " ".join(text.split()).replace("\\", "\\\\").replace('"', '\\"')
    return f'"{held}"'
