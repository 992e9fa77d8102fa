"""Lines of a test sheet as a person reads them: where to stand, what to do, what to see."""

from __future__ import annotations

from anabasis.facts import Cause, Do, Looks, SheetTest, Shown
from anabasis.wording.causes import say

LOOKS = {Looks.PORT: "port", Looks.INTERFACE: "interface", Looks.ROUTE: "route", Looks.ACTIVE: "the pair"}

LOOKED = {
    Looks.PORT: "up, {} members",
    Looks.INTERFACE: "up, {}",
    Looks.ROUTE: "active, by {}",
    Looks.ACTIVE: "{} is active",
}


def stand_said(test: SheetTest) -> str:
    """Return where to stand: `hall-sw:7, tag 180`."""
    return f"{test.at}, tag {test.tag}" if test.tag else test.at


def do_said(test: SheetTest) -> str:
    """Return what to do there, as an order."""
    match test.do:
        case Do.LINK:
            return "plug the laptop in"
        case Do.LEASE:
            return "ask for an address"
        case Do.PING:
            return f"ping {_whom(test)}"
        case Do.CONNECT:
            return f"connect to {_whom(test)} by {test.service}"
        case Do.LOOK if test.looks == Looks.ACTIVE:
            return "look which unit is active"
        case _:
            return f"look at {LOOKS[test.looks or Looks.PORT]} {test.target}"


def _whom(test: SheetTest) -> str:
    return f"{test.host} ({test.target})" if test.host else test.target


def shown_said(shown: Shown, within: str = "") -> str:
    """Return what is seen. `within`: the addresses that a lease may be of."""
    match shown.kind:
        case "answer":
            return "an answer"
        case "none":
            return "nothing"
        case "address":
            span = f" ({within})" if within else ""
            return f"an address of {shown.network}{span}" + (
                f", gateway {shown.gateway}" if shown.gateway else ", no gateway"
            )
        case _:
            return f"{shown.kind}, {shown.detail}" if shown.detail else shown.kind


def shown_text(shown: Shown) -> str:
    """Return what is seen as it is typed into a cell: `answer`, `none`, `up`, `10.64.130.0/24 via 10.64.130.1`."""
    if shown.kind == "address":
        return shown.network + (f" via {shown.gateway}" if shown.gateway else "")
    return f"{shown.kind} {shown.detail}".strip() if shown.kind in ("up", "down") else shown.kind


def expect_said(test: SheetTest) -> str:
    """Return what is to be seen, and why nothing is."""
    if test.do == Do.LOOK and test.expect.kind == "up" and test.expect.detail:
        return LOOKED[test.looks or Looks.PORT].format(test.expect.detail)
    if test.looks == Looks.ROUTE and test.expect.kind == "up":
        return "active"
    said = shown_said(test.expect, test.range)
    return f"{said}: {say(test.cause)}" if isinstance(test.cause, Cause) and test.expect.kind == "none" else said


def meanwhile_said(test: SheetTest) -> str:
    """Return what boxes show meanwhile: the rule that counts, and what the source becomes."""
    said = [f"the rule {test.rule.partition(' ')[2]} of {test.rule.partition(' ')[0]} counts it"] if test.rule else []
    return "; ".join([*said, *([f"its source becomes {test.translated}"] if test.translated else [])])
