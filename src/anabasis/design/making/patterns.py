"""Names of many ports in few signs: `1-24`, `1/0/1-24`, `a-d`, several with commas."""

from __future__ import annotations

import re
import string
from collections.abc import Collection

from anabasis.errors import InputRefused, Problem

MOST = 512
_NUMBERS = re.compile(r"(.*?)(\d+)-(\d+)")
_LETTERS = re.compile(r"(.*?)([a-z])-([a-z])")


def port_names_of(text: str, where: str = "/ports", known: Collection[str] = ()) -> list[str]:
    """Return the names a pattern stands for, in order. Raises InputRefused where it stands for none, for too many, or for one twice.

    Args:
        text: names and ranges, with commas.
        where: what the text is a value of.
        known: names that there are; one of these is itself, though it looks like a range.
    """
    out: list[str] = []
    for part in (p.strip() for p in text.split(",")):
        out += [part] if part in known else _spelled(part, where) if part else []
    if len(set(out)) < len(out):
        twice = next(n for n in out if out.count(n) > 1)
        raise InputRefused([Problem(where, "names a port twice", repr(twice))])
    return out


def _spelled(part: str, where: str) -> list[str]:
    if found := _NUMBERS.fullmatch(part):
        head, low, high = found[1], int(found[2]), int(found[3])
        if low > high or high - low >= MOST:
            allowed = f"from the lower number to the higher, {MOST} at most"
            raise InputRefused([Problem(where, "this range names no ports", repr(part), allowed)])
        return [f"{head}{n}" for n in range(low, high + 1)]
    if found := _LETTERS.fullmatch(part):
        letters = string.ascii_lowercase
        many = [found[1] + c for c in letters[letters.index(found[2]) : letters.index(found[3]) + 1]]
        return many if len(many) > 1 else [part]
    return [part]
