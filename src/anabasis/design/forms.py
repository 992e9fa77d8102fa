"""Forms: what every kind of thing can say, field by field, as a screen edits it. Read off the models and the page of titles."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from anabasis.design.base import Part, Ref
from anabasis.design.document import Design
from anabasis.design.titles import TITLES, title_of

Editor = Literal["text", "number", "flag", "choice", "ref", "refs", "texts", "choices", "map", "part", "things"]


@dataclass(frozen=True)
class FormField:
    """One field of a form."""

    key: str
    title: str
    help: str
    unit: str
    example: str
    editor: Editor
    choices: list[str | int]
    """What a choice offers; of other editors, words that may stand there by themselves."""
    ref: str | None
    """What kind of thing it names, as `Ref` says."""
    any: bool
    """`any` may stand there as well."""
    model: str | None
    """Of a part or things inside: the model of each."""
    number: bool
    """What is named, or listed, is a number."""
    default: str | int | bool | list[str] | None
    """What is meant where it is left out."""
    required: bool
    modes: list[str]
    kinds: list[str]


@cache
def forms() -> dict[str, list[FormField]]:
    """Return the form of every model, by its name, the fields in the order one reads them."""
    return {m.__name__: _form(m) for m in _models(Design)}


def _models(top: type[BaseModel]) -> Iterator[type[BaseModel]]:
    seen: dict[type[BaseModel], None] = {}
    todo = [top]
    while todo:
        model = todo.pop(0)
        if model not in seen:
            seen[model] = None
            todo += [m for f in model.model_fields.values() for m in _inner(f.annotation)]
    yield from seen


def _inner(kind: Any) -> Iterator[type[BaseModel]]:
    if isinstance(kind, type) and issubclass(kind, BaseModel):
        yield kind
    for inner in get_args(kind):
        yield from _inner(inner)


ORDER = list(TITLES)


def _form(model: type[BaseModel]) -> list[FormField]:
    own = model.__name__
    found = [_field(own, info.alias or key, info) for key, info in model.model_fields.items()]
    return sorted(found, key=lambda f: ORDER.index(f"{own}.{f.key}" if f"{own}.{f.key}" in TITLES else f.key))


def _field(model: str, key: str, info: FieldInfo) -> FormField:
    known = title_of(model, key)
    if known is None:
        raise LookupError(f"{model}.{key} has no title in design/titles.py")
    shape = _shape(info)
    default = None if info.is_required() else info.get_default(call_default_factory=True)
    plain = default if isinstance(default, str | int | bool) else [str(x) for x in default] if isinstance(default, list) and default and all(isinstance(x, str) for x in default) else None  # fmt: skip
    return FormField(
        key,
        known.title,
        known.help or info.description or "",
        known.unit,
        known.example,
        shape.editor,
        shape.choices,
        shape.ref,
        shape.any,
        shape.model,
        shape.number,
        plain,
        info.is_required(),
        list(known.modes),
        list(known.kinds),
    )


@dataclass(frozen=True)
class _Shape:
    editor: Editor
    choices: list[str | int] = field(default_factory=list)
    ref: str | None = None
    any: bool = False
    model: str | None = None
    number: bool = False


def _shape(info: FieldInfo) -> _Shape:
    return _of(info.annotation, list(info.metadata))


def _of(kind: Any, said: list[Any]) -> _Shape:
    """Return how a type is edited. `said`: what `Annotated` says of it."""
    origin, inner = get_origin(kind), [a for a in get_args(kind) if a is not NoneType]
    if origin is Annotated:
        return _of(get_args(kind)[0], [*said, *get_args(kind)[1:]])
    if origin in (Union, UnionType):
        words = [w for a in inner if get_origin(a) is Literal for w in get_args(a)]
        others = [a for a in inner if get_origin(a) is not Literal]
        lists = [a for a in others if get_origin(_bare(a)) is list]
        found = _of((lists or others or inner)[0], said)
        return replace(found, choices=words) if others and words else found
    if origin is Literal:
        return _Shape("choice", list(inner), number=all(isinstance(v, int) for v in inner))
    if origin is dict:
        return _Shape("map")
    if origin is list:
        return _listed(inner[0])
    if isinstance(kind, type) and issubclass(kind, Part):
        return _Shape("part", model=kind.__name__)
    ref = next((s for s in said if isinstance(s, Ref)), None)
    if ref is not None:
        return _Shape("ref", ref=ref.kind, number=kind is int)
    if kind is bool:
        return _Shape("flag")
    return _Shape("number", number=True) if kind is int else _Shape("text")


def _bare(kind: Any) -> Any:
    return get_args(kind)[0] if get_origin(kind) is Annotated else kind


def _listed(kind: Any) -> _Shape:
    bare = _bare(kind)
    models = list(_inner(kind))
    if models:
        return _Shape("things", model=models[0].__name__ if len(models) == 1 else "Device")
    if get_origin(bare) is list:  # cables
        return _Shape("things", model="Cable")
    one = _of(kind, [])
    if one.editor == "ref":
        return _Shape("refs", ref=one.ref, any=_takes_any(kind), number=one.number)
    return _Shape("choices", one.choices) if one.editor == "choice" else _Shape("texts", number=one.number)


def _takes_any(kind: Any) -> bool:
    refs = [s for s in get_args(kind)[1:] if isinstance(s, Ref)]
    return any(r.loss == "last" for r in refs)


def model_of(kind: str) -> str:
    """Return the model of a kind of device, by name."""
    return "".join(part.capitalize() for part in kind.split("-"))


def model_at(tree: Any, pointer: str) -> str | None:
    """Return the model of the thing at a pointer, by name; None where no thing is."""
    model = "Design"
    here: Any = tree
    for step in pointer.split("/")[1:]:
        if isinstance(here, list):
            here = here[int(step)] if step.isdigit() and int(step) < len(here) else None
            if model == "Device" and isinstance(here, dict):
                model = model_of(str(here.get("kind", "")))
            continue
        known = next((f for f in forms().get(model, []) if f.key == step), None)
        if known is None or known.model is None or not isinstance(here, dict):
            return None
        model = known.model
        here = here.get(step)
    return model if model in forms() else None
