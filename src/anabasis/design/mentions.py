"""Who names whom: the one walk over a document that finds every name of another thing, as the models declare it (`Ref`).

The check of names, what leans on what, renaming and removing all follow this walk; a field that is declared is known to all four.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from functools import cache
from types import UnionType
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from anabasis.design.base import Part, Ref
from anabasis.design.document import Design


@dataclass(frozen=True)
class Mention:
    """One name (or VLAN number) inside a list, under a key, or as a key."""

    ref: Ref
    device: int | None
    """Whose: names of zones, VRFs, ports and so on are a device's own."""
    holder: Any
    key: str | int
    owner: str
    """The pointer of the thing that leans on it."""
    pointer: str
    """The pointer of the name itself."""
    is_key: bool = False
    """The name is the key (of `translate`)."""

    @property
    def kind(self) -> str:
        """Return what kind of thing is named."""
        return self.ref.kind

    @property
    def value(self) -> Any:
        """Return what is written there; a VLAN number as a number."""
        if self.is_key:
            return int(self.key)
        holder: Any = self.holder
        plain = isinstance(holder, dict | list)
        return holder[self.key] if plain else getattr(holder, str(self.key))

    def become(self, new: Any) -> None:
        """Write another name there, in a plain tree."""
        if not self.is_key:
            self.holder[self.key] = new
            return
        entries = [(str(new) if k == self.key else k, v) for k, v in self.holder.items()]
        self.holder.clear()
        self.holder.update(entries)


@dataclass(frozen=True)
class _Shape:
    """What a type holds: a name, models by their kind, or more of it inside lists or mappings."""

    ref: Ref | None = None
    models: tuple[type[Part], ...] = ()
    items: _Shape | None = None
    keys: Ref | None = None
    values: Ref | None = None


def mentions(document: dict[str, Any] | Design, skip: Collection[int] = ()) -> Iterator[Mention]:
    """Yield every mention of a plain document, or of its models; `skip`: identities of parts that are passed over.

    Cost: linear in the document.
    """
    yield from _model(Design, document, "", "", None, skip)


def mentions_in(part: Part) -> Iterator[Mention]:
    """Yield every mention inside one part of the models, pointers counted from it."""
    yield from _model(type(part), part, "", "", None, ())


def _model(
    model: type[Part], node: Any, pointer: str, owner: str, device: int | None, skip: Collection[int]
) -> Iterator[Mention]:
    plain = isinstance(node, dict)
    for name, written, shape in _fields(model):
        key = written if plain else name
        value = node.get(key) if plain else getattr(node, key)
        if value is not None:
            at = f"{pointer}/{written}"
            if shape.ref is not None and not isinstance(value, list | dict):
                yield Mention(shape.ref, device, node, key, owner, at)
            else:
                yield from _inside(shape, value, at, owner, device, skip)


def _inside(
    shape: _Shape, value: Any, pointer: str, owner: str, device: int | None, skip: Collection[int]
) -> Iterator[Mention]:
    if shape.models:
        model = _chosen(shape.models, value)
        if model is not None and id(value) not in skip:
            yield from _model(model, value, pointer, pointer, device, skip)
    elif shape.items is not None and isinstance(value, list):
        for i, item in enumerate(value):
            at = f"{pointer}/{i}"
            if shape.items.ref is not None:
                if not isinstance(item, list | dict):
                    yield Mention(shape.items.ref, device, value, i, owner, at)
            else:
                whose = i if pointer == "/devices" else device
                yield from _inside(shape.items, item, at, at, whose, skip)
    elif isinstance(value, dict):
        for key in list(value):
            if shape.keys is not None:
                yield Mention(shape.keys, device, value, key, owner, f"{pointer}/{key}", is_key=True)
            if shape.values is not None:
                yield Mention(shape.values, device, value, key, owner, f"{pointer}/{key}")


def _chosen(models: tuple[type[Part], ...], value: Any) -> type[Part] | None:
    if isinstance(value, Part):
        return type(value)
    if not isinstance(value, dict):
        return None
    if len(models) == 1:
        return models[0]
    return next((m for m in models if value.get("kind") in get_args(m.model_fields["kind"].annotation)), None)


@cache
def _fields(model: type[Part]) -> tuple[tuple[str, str, _Shape], ...]:
    """Return (name, name as written, shape) of the fields in which names are, in the order of the model."""
    hints = get_type_hints(model, include_extras=True)
    found = ((n, f.alias or n, _shape(hints[n])) for n, f in model.model_fields.items())
    return tuple(entry for entry in found if entry[2] is not None)  # type: ignore[misc]


def _shape(annotation: Any) -> _Shape | None:
    origin = get_origin(annotation)
    if origin is Annotated:
        inner, *marks = get_args(annotation)
        ref = next((m for m in marks if isinstance(m, Ref)), None)
        return _Shape(ref) if ref is not None else _shape(inner)
    if origin in (Union, UnionType):
        shapes = [s for s in map(_shape, get_args(annotation)) if s is not None]
        if len(shapes) > 1:
            return _Shape(models=tuple(m for s in shapes for m in s.models))
        return shapes[0] if shapes else None
    if origin is list:
        items = _shape(get_args(annotation)[0])
        return _Shape(items=items) if items is not None else None
    if origin is dict:
        keys, values = map(_shape, get_args(annotation))
        return (
            _Shape(keys=keys.ref if keys else None, values=values.ref if values else None) if keys or values else None
        )
    if isinstance(annotation, type) and issubclass(annotation, Part):
        return _Shape(models=(annotation,)) if _fields(annotation) else None
    return None
