"""Faults of stateless filters: an entry that is missing, and one that drops what it should permit."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, out, put


def _permits(look: Look) -> Iterator[tuple[str, str, Tree]]:
    """Yield (pointer of the filter, of an entry, the entry) of every entry that permits, of filters that stand somewhere."""
    named = {(d, e.get(k)) for d, _, e, _ in look.interfaces() for k in ("filter_in", "filter_out")}
    for d, device in enumerate(look.devices):
        for f, filter_ in enumerate(device.get("filters", [])):
            for i, entry in enumerate(filter_["entries"] if (d, filter_["name"]) in named else []):
                if entry.get("action") == "permit":
                    at = pointer("devices", d, "filters", f)
                    yield at, f"{at}/entries/{i}", entry


def missing(look: Look) -> Iterator[Made]:
    """What a filter should permit is in none of its entries."""
    for at, here, _ in _permits(look):
        yield out(here), (at,)


def drops(look: Look) -> Iterator[Made]:
    """An entry drops what it should permit."""
    for _, here, _ in _permits(look):
        yield put(here, "action", "drop"), (here,)


def off(look: Look) -> Iterator[Made]:
    """An entry is switched off."""
    for at, here, _ in _permits(look):
        yield put(here, "enabled", False), (here, at)


FAMILY = (
    FaultKind("filter-missing", "a stateless filter lacks an entry", "rule", "breaks", True, 6, missing),
    FaultKind(
        "filter-drops", "an entry of a stateless filter drops what it should permit", "rule", "breaks", True, 4, drops
    ),
    FaultKind("filter-off", "an entry of a stateless filter is switched off", "rule", "breaks", True, 3, off),
)
