"""Design files: YAML (the 1.2 core schema) and JSON, in and out without loss.

A design file is held twice: as the plain tree that was written (`raw`, dumped and stored unchanged), and as the checked
models (`design`, what everything above reads).
"""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import yaml
from pydantic import ValidationError

from anabasis.design.document import Design
from anabasis.design.references import check
from anabasis.design.refusals import problems_of
from anabasis.errors import InputRefused, Problem, UnreadableFile

LIMIT_BYTES = 32 * 1024 * 1024
LIMIT_DEPTH = 40
LIMIT_YAML_BYTES = 8 * 1024 * 1024
"""YAML is read some ten times slower than JSON."""
LIMIT_VALUES = 1_000_000
"""Values of a YAML text, keys among them."""


@dataclass(frozen=True)
class Loaded:
    """A design file as written and as understood."""

    raw: dict[str, Any]
    design: Design


_BOOL = {"true": True, "True": True, "TRUE": True, "false": False, "False": False, "FALSE": False}
_NULL = {"~", "null", "Null", "NULL", ""}
_INT = re.compile(r"[-+]?[0-9]{1,4000}")
_FLOAT = re.compile(r"[-+]?(?:\.[0-9]+|[0-9]+(?:\.[0-9]*)?)(?:[eE][-+]?[0-9]+)?")
_TAGS = {f"tag:yaml.org,2002:{kind}" for kind in ("str", "int", "float", "bool", "null", "map", "seq")} | {"!", None}


def _unreadable(message: str, source: str) -> UnreadableFile:
    return UnreadableFile([Problem("", message)], source)


def _pairs_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for key, value in pairs:
        if key in out:
            raise ValueError(f"the key {key!r} stands twice in one object")
        out[key] = value
    return out


def _no_constant(word: str) -> Any:
    raise ValueError(f"{word} is not JSON")


def parse_text(text: str, source: str = "") -> Any:
    """Read YAML or JSON text into a plain tree. Raises UnreadableFile with line and column."""
    if len(text) > LIMIT_BYTES:
        raise _unreadable(f"larger than the limit of {LIMIT_BYTES // 2**20} MiB", source)
    if text.lstrip()[:1] in ("{", "["):
        try:
            tree = json.loads(text, object_pairs_hook=_pairs_once, parse_constant=_no_constant)
            if "\\u" in text and (wrong := unwritable(tree)):
                raise _unreadable(wrong, source)
            return tree
        except (ValueError, RecursionError) as error:
            raise _unreadable(f"not JSON: {error}", source) from None
    try:
        return _read(text)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark
        where = f"line {mark.line + 1}, column {mark.column + 1}: " if mark else ""
        raise _unreadable(f"not YAML: {where}{error.problem}", source) from None
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        raise _unreadable(f"not YAML: {str(error).splitlines()[0]}", source) from None


def _read(text: str) -> Any:
    """Build the tree of a YAML text from its events, one after the other: what is too deep, too much or ambiguous ends it where it stands.

    YAML 1.2 core schema: `off` is a word, `1:30` is a word. Keys are text, as in JSON. Aliases, which let a few lines stand for millions,
    and keys that stand twice are refused.
    """
    if len(text) > LIMIT_YAML_BYTES:
        raise ValueError(
            f"larger than the limit of {LIMIT_YAML_BYTES // 2**20} MiB for YAML; JSON may have {LIMIT_BYTES // 2**20}"
        )
    root: list[Any] = []
    open_: list[Any] = [root]
    keys: list[str | None] = [None]
    """Of each open collection: the key that waits for its value; in a list always None."""
    values = 0
    event: Any
    for event in yaml.parse(text, Loader=yaml.CSafeLoader):
        kind = type(event)
        if kind is yaml.SequenceEndEvent or kind is yaml.MappingEndEvent:
            open_.pop()
            keys.pop()
            continue
        if kind is yaml.DocumentStartEvent:
            if root:
                raise yaml.MarkedYAMLError(None, None, "one file holds one document", event.start_mark)
            continue
        if not issubclass(kind, yaml.NodeEvent):
            continue
        values += 1
        _bearable(event, values, len(open_))
        holder, key = open_[-1], keys[-1]
        if isinstance(holder, dict) and key is None:
            if kind is not yaml.ScalarEvent:
                raise yaml.MarkedYAMLError(None, None, "a key must be text", event.start_mark)
            if event.value in holder:
                raise yaml.MarkedYAMLError(None, None, f"the key {event.value[:80]!r} stands twice", event.start_mark)
            holder[event.value] = None
            keys[-1] = event.value
            continue
        value: Any = _scalar(event) if kind is yaml.ScalarEvent else [] if kind is yaml.SequenceStartEvent else {}
        if isinstance(holder, dict):
            holder[key] = value
            keys[-1] = None
        else:
            holder.append(value)
        if kind is not yaml.ScalarEvent:
            open_.append(value)
            keys.append(None)
    return root[0] if root else None


def _bearable(event: Any, values: int, depth: int) -> None:
    """Raise an error with its place for what is not read here."""
    if type(event) is yaml.AliasEvent or event.anchor:
        raise yaml.MarkedYAMLError(None, None, "anchors and aliases are not used here", event.start_mark)
    if event.tag not in _TAGS:
        raise yaml.MarkedYAMLError(None, None, f"the tag {event.tag!r} is not used here", event.start_mark)
    if depth > LIMIT_DEPTH and type(event) is not yaml.ScalarEvent:
        raise yaml.MarkedYAMLError(None, None, f"nested deeper than {LIMIT_DEPTH} levels", event.start_mark)
    if values > LIMIT_VALUES:
        raise yaml.MarkedYAMLError(None, None, f"more than {LIMIT_VALUES:,} values", event.start_mark)


def _scalar(event: Any) -> Any:
    """Return the value of a scalar: by its tag where it has one, by how it looks where it is plain."""
    text: str = event.value
    tag = (event.tag or "").rpartition(":")[2]
    if tag == "str" or event.tag == "!" or (not tag and not event.implicit[0]):
        return text
    if tag in ("", "bool") and text in _BOOL:
        return _BOOL[text]
    if tag in ("", "null") and text in _NULL:
        return None
    if tag in ("", "int") and _INT.fullmatch(text):
        return int(text)
    if tag in ("", "float", "int") and _FLOAT.fullmatch(text):
        return float(text)
    if tag:
        raise yaml.MarkedYAMLError(None, None, f"{text[:80]!r} is no {tag}", event.start_mark)
    return text


def unwritable(value: Any) -> str | None:
    """Say why text in a value cannot be written down: it holds NUL, or half of a pair of surrogates (RFC 8259 section 8.2)."""
    written = json.dumps(value, ensure_ascii=False)
    try:
        written.encode()
    except UnicodeEncodeError:
        return "the text holds half of a pair of surrogates, which is no character"
    return "the text holds the character NUL" if "\\u0000" in written else None


def parse_design(raw: Any, source: str = "", known: tuple[dict[str, Any], Design] | None = None) -> Design:
    """Check a plain tree whole and return its models. Raises InputRefused with every problem found.

    `known`: another tree, valid, and its models; models of parts that both trees share are taken over.
    """
    if not isinstance(raw, dict):
        raise InputRefused([Problem("", "a design is a mapping with `anabasis: 1` on top")], source)
    try:
        design = Design.model_validate(_with_known(raw, *known) if known else raw)
    except ValidationError as error:
        if known:
            return parse_design(raw, source)
        raise InputRefused(problems_of(error, raw, Design), source) from None
    problems = check(design, known[1] if known else None)
    if problems:
        raise InputRefused(problems, source)
    return design


def _with_known(raw: dict[str, Any], tree: dict[str, Any], design: Design) -> dict[str, Any]:
    """Return a tree in which the parts it shares with another stand as models already."""
    out = dict(raw)
    for key in ("vlans", "addresses", "services", "devices", "expectations"):
        if isinstance(raw.get(key), list) and isinstance(tree.get(key), list):
            out[key] = _shared(raw[key], tree[key], getattr(design, key))
    if isinstance(out.get("devices"), list):
        rules = [
            pair
            for plain, model in zip(tree.get("devices", []), design.devices, strict=True)
            for pair in zip(plain.get("rules", []), getattr(model, "rules", []), strict=True)
        ]
        plains, models = [p for p, _ in rules], [m for _, m in rules]
        out["devices"] = [
            {**d, "rules": _shared(d["rules"], plains, models)}
            if isinstance(d, dict) and isinstance(d.get("rules"), list)
            else d
            for d in out["devices"]
        ]
    return out


def _shared(now: list[Any], plains: list[Any], models: Sequence[Any]) -> list[Any]:
    at = {id(p): m for p, m in zip(plains, models, strict=True)}
    return [at.get(id(x), x) if isinstance(x, dict) else x for x in now]


def load_text(text: str, source: str = "") -> Loaded:
    """Read and check a design from text."""
    raw = parse_text(text, source)
    return Loaded(raw, parse_design(raw, source))


def load_file(path: str | Path) -> Loaded:
    """Read and check a design file. Raises UnreadableFile or InputRefused."""
    return load_text(read_file_text(path), str(path))


def read_file_text(path: str | Path) -> str:
    """Return the text of a file. Raises UnreadableFile for one that is not there, too large or no text."""
    file = Path(path)
    try:
        if file.stat().st_size > LIMIT_BYTES:
            raise _unreadable(f"larger than the limit of {LIMIT_BYTES // 2**20} MiB", str(path))
        return file.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise _unreadable(f"cannot be opened: {error.strerror}", str(path)) from None
    except UnicodeDecodeError as error:
        raise _unreadable(f"not UTF-8 text (byte {error.start})", str(path)) from None


class _Dumper(yaml.SafeDumper):
    """Short lists of plain values stay on one line, as in the documents people write."""

    def ignore_aliases(self, data: Any) -> bool:
        return True


def _list(dumper: yaml.SafeDumper, data: list[Any]) -> yaml.Node:
    flat = all(not isinstance(v, dict | list) for v in data)
    return dumper.represent_sequence("tag:yaml.org,2002:seq", data, flow_style=flat)


_Dumper.add_representer(list, _list)


def dump_yaml(raw: dict[str, Any]) -> str:
    """Write a plain tree as YAML; `parse_text` gives the same tree back."""
    return yaml.dump(raw, Dumper=_Dumper, sort_keys=False, allow_unicode=True, width=110)


def dump_json(raw: dict[str, Any]) -> str:
    """Write a plain tree as JSON; `parse_text` gives the same tree back."""
    return json.dumps(raw, indent=2, ensure_ascii=False) + "\n"
