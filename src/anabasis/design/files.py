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


@dataclass(frozen=True)
class Loaded:
    """A design file as written and as understood."""

    raw: dict[str, Any]
    design: Design


class _CoreLoader(yaml.CSafeLoader):
    """YAML 1.2 core schema: `off` is a word, `1:30` is a word; duplicate keys and aliases are refused."""

    yaml_implicit_resolvers: dict[str, Any] = {}  # noqa: RUF012  (PyYAML's own way of setting this)

    def construct_mapping(self, node: Any, deep: bool = False) -> dict[Any, Any]:
        seen: set[Any] = set()
        for key_node, _ in node.value:
            key = self.construct_object(key_node, deep=True)
            if not isinstance(key, str | int):
                raise yaml.constructor.ConstructorError(None, None, "a key must be text", key_node.start_mark)
            if key in seen:
                raise yaml.constructor.ConstructorError(
                    None, None, f"the key {key!r} stands twice", key_node.start_mark
                )
            seen.add(key)
        return super().construct_mapping(node, deep=deep)


for _tag, _pattern, _first in (
    ("tag:yaml.org,2002:bool", r"^(?:true|True|TRUE|false|False|FALSE)$", "tTfF"),
    ("tag:yaml.org,2002:null", r"^(?:~|null|Null|NULL|)$", ["~", "n", "N", ""]),
    ("tag:yaml.org,2002:int", r"^[-+]?[0-9]+$", "-+0123456789"),
    ("tag:yaml.org,2002:float", r"^[-+]?(?:\.[0-9]+|[0-9]+(?:\.[0-9]*)?)(?:[eE][-+]?[0-9]+)?$", "-+0123456789."),
):
    _CoreLoader.add_implicit_resolver(_tag, re.compile(_pattern), list(_first))
_CoreLoader.add_constructor("tag:yaml.org,2002:int", lambda loader, node: int(node.value))


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
        _shallow(text)
        return _plain(yaml.load(text, Loader=_CoreLoader))
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark
        where = f"line {mark.line + 1}, column {mark.column + 1}: " if mark else ""
        raise _unreadable(f"not YAML: {where}{error.problem}", source) from None
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        raise _unreadable(f"not YAML: {str(error).splitlines()[0]}", source) from None


def _shallow(text: str) -> None:
    """Refuse aliases, which let a few lines stand for millions, and deep nesting, before anything is built."""
    if len(text) > LIMIT_YAML_BYTES:
        raise ValueError(
            f"larger than the limit of {LIMIT_YAML_BYTES // 2**20} MiB for YAML; JSON may have {LIMIT_BYTES // 2**20}"
        )
    depth = 0
    for event in yaml.parse(text, Loader=yaml.CSafeLoader):
        mark: Any = event.start_mark
        if isinstance(event, yaml.AliasEvent) or getattr(event, "anchor", None):
            raise yaml.MarkedYAMLError(None, None, "anchors and aliases are not used here", mark)
        if isinstance(event, yaml.CollectionStartEvent):
            depth += 1
            if depth > LIMIT_DEPTH:
                raise yaml.MarkedYAMLError(None, None, f"nested deeper than {LIMIT_DEPTH} levels", mark)
        elif isinstance(event, yaml.CollectionEndEvent):
            depth -= 1


def unwritable(value: Any) -> str | None:
    """Say why text in a value cannot be written down: it holds NUL, or half of a pair of surrogates (RFC 8259 section 8.2)."""
    written = json.dumps(value, ensure_ascii=False)
    try:
        written.encode()
    except UnicodeEncodeError:
        return "the text holds half of a pair of surrogates, which is no character"
    return "the text holds the character NUL" if "\\u0000" in written else None


def _plain(value: Any) -> Any:
    """Make number keys (of `translate`) text, as JSON has them, so that one tree serves both forms."""
    if isinstance(value, dict):
        return {str(k): _plain(v) for k, v in value.items()}
    if isinstance(value, list):
        return [_plain(v) for v in value]
    return value


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
    file = Path(path)
    try:
        if file.stat().st_size > LIMIT_BYTES:
            raise _unreadable(f"larger than the limit of {LIMIT_BYTES // 2**20} MiB", str(path))
        text = file.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise _unreadable(f"cannot be opened: {error.strerror}", str(path)) from None
    except UnicodeDecodeError as error:
        raise _unreadable(f"not UTF-8 text (byte {error.start})", str(path)) from None
    return load_text(text, str(path))


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
