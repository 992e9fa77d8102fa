"""Translate what Pydantic says into the problems a person reads: where, what was given, what is allowed, nearest."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, get_args

from pydantic import BaseModel, ValidationError
from pydantic_core import ErrorDetails

from anabasis.design.devices import KINDS
from anabasis.design.notation import pointer
from anabasis.errors import MOST_TOLD, Problem, nearest

_TYPES = {
    "string_type": "text; a name made of digits stands in quotes",
    "int_type": "a whole number",
    "bool_type": "true or false",
    "list_type": "a list",
    "dict_type": "a mapping of keys to values",
    "model_type": "a mapping of keys to values",
    "model_attributes_type": "a mapping of keys to values",
}


def problems_of(error: ValidationError, raw: Any, model: type[BaseModel]) -> list[Problem]:
    """Return every problem once, in document order of the error list."""
    found: dict[str, Problem] = {}
    for detail in error.errors():
        path = _document_path(detail["loc"], raw)
        problem = _problem(detail, path, model)
        found.setdefault(problem.pointer + problem.message, problem)
        if len(found) > MOST_TOLD:
            break
    return list(found.values())


def _document_path(loc: tuple[int | str, ...], raw: Any) -> tuple[int | str, ...]:
    """Drop the steps Pydantic adds for unions and validators, which no document has."""
    path: list[int | str] = []
    value = raw
    for index, step in enumerate(loc):
        if isinstance(value, Mapping) and step in value:  # noqa: SIM114  (the types differ)
            value = value[step]
        elif isinstance(value, list) and isinstance(step, int) and step < len(value):
            value = value[step]
        elif len(path) == 2 and path[0] == "devices" and step in KINDS:
            continue
        elif index == len(loc) - 1 and isinstance(value, Mapping):
            path.append(step)
            break
        else:
            continue
        path.append(step)
    return tuple(path)


def _problem(detail: ErrorDetails, path: tuple[int | str, ...], model: type[BaseModel]) -> Problem:
    kind, given = detail["type"], _short(detail["input"])
    where = pointer(*path)
    context = detail.get("ctx", {})
    if kind == "extra_forbidden":
        keys = known_keys(detail["loc"][:-1], model)
        key = str(path[-1]) if path else ""
        return Problem(where, f"unknown key {key!r}", "", ", ".join(keys), nearest(key, keys))
    if kind == "missing":
        return Problem(pointer(*path[:-1]), f"the key {path[-1]!r} is missing")
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        tag = str(context.get("tag", ""))
        return Problem(where + "/kind", "a device needs a kind", tag, ", ".join(KINDS), nearest(tag, KINDS))
    if kind == "literal_error":
        allowed = str(context.get("expected", "")).replace("'", "")
        options = allowed.replace(" or ", ", ").split(", ")
        return Problem(where, "not one of the allowed words", given, allowed, nearest(str(detail["input"]), options))
    if kind == "value_error":
        return Problem(where, "badly written", given, str(context.get("error", "")))
    if kind in _TYPES:
        return Problem(where, "the wrong kind of value", given, _TYPES[kind])
    bounds = ", ".join(f"{sign} {context[word]}" for word, sign in _BOUNDS.items() if word in context)
    return Problem(where, detail["msg"][0].lower() + detail["msg"][1:], given, bounds)


_BOUNDS = {"ge": "at least", "le": "at most", "min_length": "at least", "max_length": "at most"}


def _short(value: Any) -> str:
    text = json.dumps(value, default=str, ensure_ascii=False)
    return text if len(text) <= 80 else text[:77] + "..."


def known_keys(loc: tuple[int | str, ...], model: type[BaseModel]) -> list[str]:
    """Return the keys allowed at a place, following Pydantic's own location into the models."""
    here: Any = model
    for step in loc:
        if isinstance(here, type) and issubclass(here, BaseModel):
            fields = {f.alias or n: f for n, f in here.model_fields.items()}
            here = _models(fields[step].annotation) if step in fields else here
        elif isinstance(here, dict) and step in here:
            here = here[step]
        if isinstance(here, dict) and len(here) == 1:
            here = next(iter(here.values()))
    if isinstance(here, type) and issubclass(here, BaseModel):
        return [f.alias or n for n, f in here.model_fields.items()]
    return []


def _models(annotation: Any) -> dict[str, type[BaseModel]]:
    """Return the models inside a type, by the `kind` they carry (or by name where they carry none)."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        kind = annotation.model_fields.get("kind")
        return {get_args(kind.annotation)[0] if kind else annotation.__name__: annotation}
    merged: dict[str, type[BaseModel]] = {}
    for part in get_args(annotation):
        merged |= _models(part)
    return merged
