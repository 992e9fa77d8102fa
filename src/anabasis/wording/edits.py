"""What an edit that is proposed would do, and what a request for an address got, in words."""

from __future__ import annotations

from anabasis.facts import Cause, Does, EditDoes, HandedOut
from anabasis.wording.causes import say

_DOES: dict[Does, str] = {
    "permits-just-this": "{box}: a rule {name} for just this, {where}",
    "drops-just-this": "{box}: a rule {name} that drops just this, {where}",
    "adds-service": "{box}: {service} added to the rule {name}",
    "takes-service": "{box}: {service} taken out of the rule {name}",
    "switches-rule-off": "{box}: the rule {name} switched off",
    "closes-between-networks": "{box}: closed between its networks, {name} kept to itself",
    "switches-route-off": "{box}: its route to {name} switched off",
    "takes-idle-rule-out": "The rule that decides nothing taken out",
    "routes-back": "Routes back at {box} instead",
}


def edit_words(edit: EditDoes) -> str:
    """Return what an edit would do, without a full stop."""
    where = f"above {edit.above}" if edit.above else "at the end"
    said = _DOES[edit.does].format(box=edit.box, name=edit.name, service=edit.service, where=where)
    return said + (f", and {edit.more} more on the way" if edit.more else "")


def lease_words(handed: HandedOut | None, stops: Cause | None) -> str:
    """Return what a request for an address got, and what is wrong with it, as a sentence without its full stop."""
    if handed is None:
        return say(stops)
    through = f" through {handed.relay}" if handed.relay else ""
    assumed = ", assumed: what it hands out stands in no design" if handed.assumed else ""
    luck = f"; {handed.servers} servers answer here, and which one is first is luck" if handed.servers > 1 else ""
    wrong = ", but no gateway" if not handed.gateway else f", but {say(stops)}" if stops is not None else ""
    return f"{handed.server}{through} hands out {handed.address}{assumed}{luck}{wrong}"


def everything(opened: bool) -> str:
    """Return what is said of the flows of a pair that are not spelled out: all of them opened, or closed."""
    return "everything that passes now; nothing did" if opened else "everything that passed; nothing does now"
