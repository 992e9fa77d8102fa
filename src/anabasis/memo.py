"""The one store of what was computed from which inputs, for all states of one design: drafts, what-ifs, failures.

A layer is a pure function of its inputs and knows nothing of the store. Whoever asks names the layer and the inputs; where the same inputs were
asked about before, what came out then is handed out again. A layer that comes out the same is the same object, so what stands on it is found
again as well: the wave of an edit stops there ("early cut-off", Mokhov, Mitchell and Peyton Jones, "Build Systems à la Carte", ICFP 2018).

Some layers are worked out from what the layer was in another state, since only a part of it is new: they ask for `last`.

A memo holds no lock: whoever shares a design between threads takes turns on the whole of it (`server/turns.py`), one lock a design.
"""

from __future__ import annotations

import sys
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np

T = TypeVar("T")
KEPT = 2
"""For how many states a value stays that nobody asked for."""


class Same:
    """Some objects as inputs that are told apart by being the same ones, not by what they hold. It holds on to them."""

    __slots__ = ("held",)

    def __init__(self, *held: object) -> None:
        self.held = held

    def __hash__(self) -> int:
        """Return the same for the same objects."""
        return hash(tuple(map(id, self.held)))

    def __eq__(self, other: object) -> bool:
        """Tell whether the other is about the same objects."""
        return (
            isinstance(other, Same)
            and len(self.held) == len(other.held)
            and all(a is b for a, b in zip(self.held, other.held, strict=True))
        )


@dataclass
class _Kept:
    value: Any
    seen: int


class Memo:
    """What was computed for one design. Cost of a question: the hash of its inputs."""

    def __init__(self) -> None:
        self._layers: dict[Hashable, OrderedDict[Hashable, _Kept]] = {}
        self._turn = 0

    def get(self, layer: Hashable, inputs: Hashable, work: Callable[[], T]) -> T:
        """Return what a layer makes of some inputs. Work that is stopped half-way leaves nothing behind."""
        known = self._layers.setdefault(layer, OrderedDict())
        kept = known.get(inputs)
        if kept is None:
            kept = known[inputs] = _Kept(work(), self._turn)
        kept.seen = self._turn
        known.move_to_end(inputs)
        return kept.value  # type: ignore[no-any-return]

    def find(self, layer: Hashable, inputs: Hashable) -> Any:
        """Return what is known; None where nothing is."""
        kept = self._layers.setdefault(layer, OrderedDict()).get(inputs)
        if kept is None:
            return None
        kept.seen = self._turn
        return kept.value

    def put(self, layer: Hashable, inputs: Hashable, value: object) -> None:
        """Keep a value that was worked out elsewhere."""
        known = self._layers.setdefault(layer, OrderedDict())
        known[inputs] = _Kept(value, self._turn)
        known.move_to_end(inputs)

    def last(self, layer: Hashable) -> Any:
        """Return what the layer was when it was last asked for; None where it never was."""
        known = self._layers.get(layer)
        return next(reversed(known.values())).value if known else None

    def begin(self) -> None:
        """Say that another state is looked at: what nobody asked for in the last few goes."""
        self._turn += 1
        for known in self._layers.values():
            for inputs in [k for k, kept in known.items() if self._turn - kept.seen > KEPT]:
                del known[inputs]

    def __len__(self) -> int:
        """Return how many values are kept."""
        return sum(map(len, self._layers.values()))

    @property
    def bytes(self) -> int:
        """Return the memory of the arrays that are kept, each once. Cost: all that is kept."""
        return sum(_arrays(self._layers, set()))


def _arrays(value: object, seen: set[int]) -> Iterator[int]:
    """Yield the bytes of arrays inside a value, each once."""
    todo = [value]
    while todo:
        one = todo.pop()
        if id(one) in seen:
            continue
        seen.add(id(one))
        if isinstance(one, np.ndarray):
            yield sys.getsizeof(one) if one.base is None else 0
            todo += [one.base] if one.base is not None else []
        elif isinstance(one, dict):
            todo += [*one.keys(), *one.values()]
        elif isinstance(one, tuple | list | set | frozenset):
            todo += one
        elif isinstance(one, Same):
            todo += one.held
        elif type(one).__module__.startswith("anabasis."):
            todo += getattr(one, "__dict__", {}).values()
