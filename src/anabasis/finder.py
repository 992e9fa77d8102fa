"""Find anything of a design by a few letters, an address, a prefix or a service: what the finder asks, a page at a time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import ip_address, ip_network
from typing import Literal

from anabasis.climb import Climb
from anabasis.design import Link, Tree, all_links
from anabasis.design.notation import looks_like_address
from anabasis.design.pointers import value_at

Sort = Literal["thing", "segment", "pair", "address"]


@dataclass(frozen=True)
class Hit:
    """One thing found."""

    sort: Sort
    kind: str
    title: str
    pointer: str | None
    source: str | None = None
    """Of a pair, or of an address that stands in a segment: the segment."""
    target: str | None = None


def find(climb: Climb, tree: Tree, text: str, most: int = 40) -> list[Hit]:
    """Return what matches best, in order: names that begin with the words, names that hold them, then what says them.

    Two segments with a blank, an arrow or `to` between are a pair. Cost: linear in the things of the design, never in its pairs.
    """
    words = text.strip().lower().split()
    if not words:
        return []
    ranked: list[tuple[int, int, Hit]] = []
    for n, link in enumerate(all_links(tree)):
        rank = _rank(f"{link.kind} {link.title}".lower(), link.title.lower(), words)
        if rank is not None:
            ranked.append((rank, n, Hit("thing", link.kind, link.title, link.pointer)))
    out = [h for _, _, h in sorted(ranked, key=lambda r: r[:2])][:most]
    out = [*_addresses(climb, tree, text.strip()), *_pairs(climb, words), *out]
    if len(out) < most:
        out += _sayers(tree, words, {h.pointer for h in out}, most - len(out))
    return out[:most]


def _rank(whole: str, title: str, words: list[str]) -> int | None:
    if not all(w in whole for w in words):
        return None
    last = words[-1]
    if title == last or title.split()[-1:] == [last]:
        return 0
    return 1 if any(part.startswith(last) for part in title.split()) else 2


def _pairs(climb: Climb, words: list[str]) -> Iterator[Hit]:
    """Yield pairs of segments whose names begin with the first and the last word."""
    ends = [w for w in words if w not in ("to", "→", "->")]
    if len(ends) != 2:
        return
    names = [s.name for s in climb.site.segments.all if s.kind != "transit"]
    near, far = ([n for n in names if n.lower().startswith(w)] for w in ends)
    for one in near[:4]:
        for two in far[:4]:
            if one != two:
                yield Hit("pair", "Pair", f"{one} → {two}", None, one, two)


def _addresses(climb: Climb, tree: Tree, text: str) -> Iterator[Hit]:
    """Yield the segments that an address or a prefix lies in, and what has it written."""
    if not looks_like_address(text):
        return
    try:
        wanted = ip_network(text, strict=False) if "/" in text else ip_network(ip_address(text))
    except ValueError:
        return
    for segment in climb.site.segments.all:
        for net in map(ip_network, segment.subnets if segment.kind != "outside" else ()):
            if net.version == wanted.version and net.overlaps(wanted):
                yield Hit("segment", "Segment", f"{segment.name} ({net})", segment.pointer or None, segment.name)
                break
    if "/" not in text:
        yield Hit("address", "Address", f"what {text} reaches, and who reaches it", None, text)


def _sayers(tree: Tree, words: list[str], known: set[str | None], most: int) -> list[Hit]:
    """Return things that say the words in one of their settings: a service, an address, a note."""
    out: list[Hit] = []
    for link in all_links(tree):
        if len(out) == most:
            break
        if link.pointer not in known and _says(tree, link, words):
            out.append(Hit("thing", link.kind, link.title, link.pointer))
    return out


def _says(tree: Tree, link: Link, words: list[str]) -> bool:
    here = value_at(tree, link.pointer)
    if not isinstance(here, dict):
        return False
    plain = [v for v in here.values() if not isinstance(v, dict)]
    said = " ".join(
        str(x) for v in plain for x in (v if isinstance(v, list) else [v]) if not isinstance(x, dict | bool)
    ).lower()
    return all(w in said for w in words)
