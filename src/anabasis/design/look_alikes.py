"""Names that a person takes for each other: alike but for case, width or letters that look the same (Unicode UTS 39 section 4)."""

from __future__ import annotations

import unicodedata
from collections import defaultdict
from collections.abc import Iterable, Iterator
from functools import cache

from confusable_homoglyphs import confusables

Named = tuple[str, str]
"""(name, pointer)"""


def look_alikes(names: Iterable[Named]) -> Iterator[list[Named]]:
    """Yield the groups of different names that look alike, in the order given."""
    known, told = list(names), set[frozenset[str]]()
    for key in (folded, skeleton):
        groups: dict[str, list[Named]] = defaultdict(list)
        for name, at in known:
            groups[key(name)].append((name, at))
        for group in groups.values():
            found = frozenset(n for n, _ in group)
            if len(found) > 1 and found not in told:
                told.add(found)
                yield group


def folded(name: str) -> str:
    """Return a name without its case and width (Unicode chapter 3.13, UAX 15)."""
    return unicodedata.normalize("NFKC", name).casefold()


def skeleton(name: str) -> str:
    """Return a name with every letter as the one it is confusable with (UTS 39 section 4), case aside."""
    plain = unicodedata.normalize("NFKC", name)
    return "".join(_prototype(c) for c in plain).casefold()


@cache
def _prototype(letter: str) -> str:
    """Return the letter that a letter looks like. In the published table a prototype has many look-alikes, and each of those it alone."""
    table: dict[str, list[dict[str, str]]] = confusables.confusables_data
    alike = [x["c"] for x in table.get(letter, ())]
    if len(alike) != 1:
        return letter
    mutual = [x["c"] for x in table.get(alike[0], ())] == [letter]
    return min(letter, alike[0]) if mutual else alike[0]
