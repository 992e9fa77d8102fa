"""What a migration took for granted and leaves open, as a person reads it."""

from __future__ import annotations

from anabasis.facts import Left, Noted, Took

SAID: dict[Took | Left, str] = {
    Took.GATEWAY_GIVES_UP: "{gateway} gives up {address} and has {own} on {interface}",
    Took.GATEWAY_STAYS: "hosts keep their gateway {address}: {device} has it now",
    Took.GATEWAY_TAKES: "{gateway} has {address} now: hosts keep their gateway",
    Took.LINK_GOES: "the link {subnet} goes",
    Took.CARRIES: "{line} carries VLAN {vlan} as a tag as well",
    Took.TELLS: "{device} tells of {subnet} by OSPF",
    Took.REACHES: "{device} reaches {subnet} by {hop}",
    Took.REACHES_ALL: "{device} reaches everything else by {hop}",
    Left.SET_MISSES: "the set {set} holds {was} by {member}, and not {now}",
    Left.NO_ANSWERS: "{device} answers nothing there: {list} is none of its lists",
    Left.NO_LISTS: "what {device} answers on its new addresses: it has no list",
    Left.NO_WAY: "a route to {subnet} on {device}: it shares no subnet with {other}",
    Left.NO_ZONE: "a routed zone for {line} of {device}",
    Left.TRANSLATIONS: "translations of {device}: a bridge translates nothing",
    Left.PORT_BESIDE: "{port} has no port beside {peer}",
    Left.HEARTBEATS: "{device} has {free} free ports for heartbeats, and {advised} are advised",
}


def noted(note: Noted) -> str:
    """Return one of them, without its full stop."""
    return SAID[note.what].format(**note.known)
