"""Which part of a document leans on which: the links a person follows from a thing to what it needs, and to what needs it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from anabasis.design.document import Design
from anabasis.design.mentions import mentions
from anabasis.design.targets import Targets


@dataclass(frozen=True)
class Use:
    """`source` leans on `target`; both are JSON Pointers."""

    source: str
    target: str


def uses(document: dict[str, Any] | Design) -> list[Use]:
    """Return every link of a checked document, each once. Cost: linear in its size."""
    return list(dict.fromkeys(_links(document)))


def _links(document: dict[str, Any] | Design) -> Iterator[Use]:
    targets = Targets(document)
    for mention in mentions(document):
        for target in targets.of(mention):
            yield Use(mention.owner, target)


def users_of(links: list[Use], pointer: str) -> list[str]:
    """Return the pointers of what leans on a thing or on something inside it, the thing itself aside."""
    return _others(((u.target, u.source) for u in links), pointer)


def needs_of(links: list[Use], pointer: str) -> list[str]:
    """Return the pointers of what a thing, or something inside it, leans on, the thing itself aside."""
    return _others(((u.source, u.target) for u in links), pointer)


def _others(pairs: Iterator[tuple[str, str]], pointer: str) -> list[str]:
    inside = pointer + "/"
    found = dict.fromkeys(other for mine, other in pairs if (mine + "/").startswith(inside))
    return [p for p in found if not (p + "/").startswith(inside)]
