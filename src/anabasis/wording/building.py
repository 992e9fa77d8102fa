"""Steps of a build sheet as a person reads them: what to set, in words of no maker, what to look at, how to go back."""

from __future__ import annotations

from typing import Any

from anabasis.facts import BuildLine, ChangeSign, StateSeen, Subject, Waits, WayBack
from anabasis.wording.causes import say
from anabasis.wording.drift import LISTS, SETTINGS, value_said

ADD, CHANGE, REMOVE = "add", "change", "remove"
TITLES: dict[Subject, str] = {
    Subject.PLAN: "the plan",
    Subject.SETS: "named sets",
    Subject.EXPECTATION: "what is expected",
    Subject.BOX: "the box",
    Subject.CABLE: "cables",
    Subject.SETTINGS: "settings of the box",
    Subject.BUNDLE: "bundles",
    Subject.VLANS: "the VLAN table",
    Subject.MEMBERSHIP: "VLANs on ports",
    Subject.WIRELESS: "wireless networks",
    Subject.ZONE: "zones",
    Subject.VRF: "VRFs",
    Subject.ANSWERS: "what the box answers",
    Subject.FILTER: "filters",
    Subject.WIRE: "inline pairs",
    Subject.INTERFACE: "interfaces",
    Subject.HOST: "addresses of hosts",
    Subject.TUNNEL: "tunnels",
    Subject.ROUTE: "routes",
    Subject.RULE: "rules",
    Subject.TRANSLATION: "translation",
    Subject.LEASE: "leases",
    Subject.PAIR: "the pair",
    Subject.ACTIVE: "put it in force",
    Subject.SAVE: "save it over a restart",
}
VERBS = {ADD: "add", CHANGE: "change", REMOVE: "take out"}
CHECKS: dict[Subject, str] = {
    Subject.BOX: "switch it on, and look at its ports",
    Subject.CABLE: "look at the link at both ends",
    Subject.BUNDLE: "look at the bundle: every member is in it",
    Subject.VLANS: "list the VLANs of the box",
    Subject.MEMBERSHIP: "list member, untagged and PVID of these ports",
    Subject.WIRELESS: "list the networks it sends",
    Subject.ZONE: "list zones, and the interfaces in each",
    Subject.VRF: "list the tables of the box",
    Subject.ANSWERS: "try one service that it answers, and one that it does not",
    Subject.FILTER: "list the entries in their order",
    Subject.WIRE: "look at the link at both ends of the pair",
    Subject.INTERFACE: "look at the state and the address of each",
    Subject.HOST: "ping its gateway from the host",
    Subject.TUNNEL: "look at the state of the tunnel, and ping its far end",
    Subject.ROUTE: "look the prefixes up in the table",
    Subject.RULE: "list the rules in their order",
    Subject.TRANSLATION: "list the translations in their order",
    Subject.LEASE: "have a host ask for a lease",
    Subject.PAIR: "look at who is active, and who stands by",
    Subject.SETTINGS: "list the settings of the box",
    Subject.ACTIVE: "compare what is in force with what was edited",
    Subject.SAVE: "compare what is saved with what is in force",
}
WAITS = {
    Waits.FORWARDING: "a bridge listens and learns before it forwards on a port that came up",
    Waits.BUNDLE: "both ends agree on the members first",
    Waits.LEASE: "a host asks again after a few seconds",
    Waits.NEIGHBOUR: "neighbours hear of each other, and tell what they know",
    Waits.ELECTION: "a router waits for another to speak before it takes the address over",
    Waits.UNITS: "units listen for each other before one becomes active",
}
BACK = {
    WayBack.CONSOLE: "stand at the console of what is cut off, or have somebody there",
    WayBack.TIMED: "have the box take this step back by itself unless it is confirmed, or stand at its console",
}


def step_title(subject: Subject, sign: ChangeSign, device: str) -> str:
    """Return what a step is, in a line: `hall-sw: change VLANs on ports`."""
    what = TITLES[subject] if subject in (Subject.SAVE, Subject.ACTIVE) else f"{VERBS[sign]} {TITLES[subject]}"
    return f"{device}: {what}" if device else what


def membership_said(port: dict[str, Any]) -> str:
    """Return how a port or bundle carries VLANs: as settings, and as what people call them."""
    untagged, tagged, pvid = port.get("untagged", []), port.get("tagged", []), port.get("pvid")
    own = ", ".join(map(str, untagged))
    if tagged:
        rest = (
            f", untagged {own} with PVID {pvid}"
            if untagged and pvid is not None
            else f", untagged {own}"
            if own
            else ", nothing untagged"
        )
        return f"trunk: tagged {', '.join(map(str, tagged))}{rest}" + (
            f", PVID {pvid}" if pvid is not None and not own else ""
        )
    if len(untagged) == 1 and pvid == untagged[0]:
        return f"access port of VLAN {own}: untagged {own}, PVID {pvid}"
    if untagged:
        return f"untagged {own}, " + (f"PVID {pvid}" if pvid is not None else "no PVID")
    return f"PVID {pvid}, member of nothing" if pvid is not None else "no VLAN"


ONE = ("failover", "preferences", "ospf")
"""Lists by name that are one thing of a box."""
CARRIES = ("untagged", "tagged", "pvid")


def line_said(line: BuildLine, subject: Subject) -> str:
    """Return one line of a step: the thing, and its values."""
    noun = LISTS.get(line.kind)
    if line.kind == line.name and noun is not None and line.kind in ONE:
        return _setting(line)
    if line.kind == "cables":
        return (
            {ADD: "connect", CHANGE: "turn round", REMOVE: "unplug"}[line.sign]
            + " "
            + line.name.replace(" -- ", " to ")
        )
    if subject == Subject.SAVE:
        return "save what is in force"
    if subject == Subject.ACTIVE:
        return "put in force what was edited"
    if noun is None or not isinstance(line.after if line.after is not None else line.before, dict):
        return _setting(line)
    thing = f"{noun} {_named(line)}"
    if line.kind == "devices":
        held = line.after or line.before or {}
        ports = f" with {len(held['ports'])} ports" if held.get("ports") else ""
        return f"{VERBS[line.sign]} {held.get('kind', 'box')} {line.name}" + (ports if line.sign == ADD else "")
    if line.sign == REMOVE:
        return f"{thing}: take it out"
    values = _values(line, subject)
    return f"{thing}: {values}" if values else thing


def _named(line: BuildLine) -> str:
    return line.name.replace("main ", "", 1) if line.kind == "routes" else line.name


def _setting(line: BuildLine) -> str:
    if line.kind == "note":
        return "its note"
    name = SETTINGS.get(line.kind, LISTS.get(line.kind, line.kind.replace("_", " ")))
    before, after = line.before, line.after
    if isinstance(before, list) and isinstance(after, list):
        more, less = [x for x in after if x not in before], [x for x in before if x not in after]
        said = [f"add {value_said(more)}"] * bool(more) + [f"take out {value_said(less)}"] * bool(less)
        return f"{name}: {', '.join(said) or 'in another order'}"
    if isinstance(before, dict) and isinstance(after, dict):
        return f"{name}: {_differing(before, after)}"
    if after is None:
        return f"{name}: no longer {value_said(before)}"
    return f"{name}: {value_said(after)}" + (f" (it was {value_said(before)})" if before is not None else "")


def _values(line: BuildLine, subject: Subject) -> str:
    after = line.after or {}
    before = line.before or {}
    parts: list[str] = []
    if subject in (Subject.MEMBERSHIP, Subject.BUNDLE) and line.kind in ("ports", "lags"):
        if any(k in after or k in before for k in CARRIES) and [after.get(k) for k in CARRIES] != [
            before.get(k) for k in CARRIES
        ]:
            parts.append(membership_said(after))
        before, after = ({k: v for k, v in x.items() if k not in CARRIES} for x in (before, after))
    return "; ".join([*parts, *([d] if (d := _differing(before, after)) else [])])


def _differing(before: dict[str, Any], after: dict[str, Any]) -> str:
    out: list[str] = []
    for key in dict.fromkeys((*before, *after)):
        if key in ("name", "note", "id", "tag", "vlan") and before.get(key, after.get(key)) == after.get(key):
            continue
        one, two = before.get(key), after.get(key)
        if one == two:
            continue
        word = key.replace("_", " ")
        if two is None:
            out.append(f"no {word} ({value_said(one)} goes)")
        else:
            out.append(f"{word} {value_said(two)}" + (f" (was {value_said(one)})" if one is not None else ""))
    return ", ".join(out)


def check_said(subject: Subject, sign: ChangeSign) -> str:
    """Return what to look at after a step; empty for one on paper."""
    if sign == REMOVE and subject in CHECKS and subject not in (Subject.SAVE, Subject.ACTIVE):
        return f"list {TITLES[subject]}: they are gone"
    return CHECKS.get(subject, "")


def state_said(state: StateSeen) -> str:
    """Return what a box shows: `vlan110 of lab-sw is up`."""
    word = {"port": "port", "interface": "interface", "route": "route"}[state.kind]
    on = "active" if state.kind == "route" else "up"
    return f"{word} {state.name} of {state.device} is {on if state.up else f'not {on} yet'}" + (
        f": {say(state.cause)}" if state.cause is not None else ""
    )


def undo_said(sign: ChangeSign, lines: tuple[BuildLine, ...]) -> str:
    """Return how to go back."""
    if not lines or all(n.kind == "running" for n in lines):
        return "nothing to take back"
    if sign == ADD:
        return "take out again what this step added"
    if sign == REMOVE:
        return "put back what this step took out"
    held = [n for n in lines if n.before is not None]
    if len(held) == 1 and not isinstance(held[0].before, dict | list):
        return f"set it back to {value_said(held[0].before)}"
    return "set everything back to what it was"


def wait_said(why: Waits) -> str:
    """Return why waiting is normal."""
    return WAITS[why]


def back_said(back: WayBack) -> str:
    """Return how to come back to what a step cuts off."""
    return BACK[back]
