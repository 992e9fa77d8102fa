"""What a reader of tables took for granted, as a person reads it."""

from __future__ import annotations

from anabasis.facts import Assumed, Assumption

SAID = {
    Assumed.DEVICE: "{name} is not in the design: it is made as a {taken_for}",
    Assumed.VLAN: "VLAN {name} is not in the plan: it is added as {taken_for}",
    Assumed.HEADINGS: "there is no line of headings: the columns are read as {name}",
    Assumed.HEADING: "the heading '{name}' is read as {taken_for}",
    Assumed.PORT: "{name} is not on its box: it is made",
    Assumed.FOREIGN: "{name} is not read: the design has no place for it ({taken_for} times)",
}


def taken_for_granted(assumed: Assumption) -> str:
    """Return one thing taken for granted, as a sentence without its full stop."""
    return SAID[assumed.what].format(name=assumed.name, taken_for=assumed.taken_for)
