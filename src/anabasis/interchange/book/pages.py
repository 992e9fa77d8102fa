"""The pages of the site book, filled into `site-book.html`."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape
from markupsafe import Markup

from anabasis.climb import Climb
from anabasis.design import Tree
from anabasis.design.devices import BridgingBox, Firewall
from anabasis.interchange.book.drawing import cabling_svg
from anabasis.interchange.ports import Ports
from anabasis.views import cabling, drill_view, expectation_rows, matrix, routing_overview

MOST_CELLS = 40
"""Up to how many segments the matrix is printed; of more, the pairs that are open are listed."""


@dataclass(frozen=True)
class PortList:
    """The ports of one box."""

    device: str
    rows: list[dict[str, str]]


def site_book(climb: Climb, tree: Tree, state: str, at: datetime | None) -> str:
    """Return the book as one HTML file. `state`: which state of the design it is, as `draft 17`; `at`: when it was written, None = not said."""
    env = Environment(
        loader=PackageLoader("anabasis.interchange.book", "templates"),
        autoescape=select_autoescape(default=True),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    return env.get_template("site-book.html").render(_content(climb, tree, state, at))


def _content(climb: Climb, tree: Tree, state: str, at: datetime | None) -> dict[str, Any]:
    design, site = climb.design, climb.site
    ports: dict[str, list[dict[str, str]]] = {}
    for row in Ports().rows(tree):
        ports.setdefault(row["device"], []).append(row)
    few = sum(s.kind != "transit" for s in site.segments.all) <= MOST_CELLS
    pairs = [d for d in design.devices if isinstance(d, Firewall) and len(d.units) == 2]
    return {
        "name": tree.get("name", ""),
        "state": state,
        "at": at.strftime("%Y-%m-%d %H:%M") if at is not None else "",
        "drawing": Markup(cabling_svg(cabling(site.fabric))),
        "vlans": tree.get("vlans", []),
        "segments": [s for s in site.segments.all if s.kind != "transit"],
        "sets": [("addresses", tree.get("addresses", [])), ("services", tree.get("services", []))],
        "ports": [PortList(name, rows) for name, rows in ports.items()],
        "cables": tree.get("cables", []),
        "layer3": [d for d in routing_overview(site.net) if isinstance(site.net.devices[d.name], BridgingBox)],
        "policies": climb.policies(),
        "matrix": matrix(climb.verdicts()) if few else None,
        "open": _open(climb) if not few else [],
        "expectations": expectation_rows(climb.expectations),
        "findings": climb.findings,
        "drills": [(d.name, drill_view(climb.drill(d.name))) for d in pairs],
        "signs": {"all": "●", "some": "◐", "none": ""},
    }


def _open(climb: Climb) -> list[tuple[str, str, str]]:
    """Return (segment, those that all its flows reach, those that some do), by counting; no flow is walked."""
    tally, segments = climb.verdicts().tally, climb.site.segments.all
    shown = [k for k, s in enumerate(segments) if s.kind != "transit"]
    out: list[tuple[str, str, str]] = []
    for a in shown:
        sides = [
            ", ".join(
                segments[b].name for b in shown if b != a and tally.some[a, b] and bool(tally.full[a, b]) is whole
            )
            for whole in (True, False)
        ]
        if any(sides):
            out.append((segments[a].name, sides[0], sides[1]))
    return out
