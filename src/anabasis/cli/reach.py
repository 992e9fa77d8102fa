"""`anabasis reach`."""

from typing import Annotated

import typer

from anabasis.cli.output import AsJson, At, DesignFile, Fail, climb_of, print_json, print_table
from anabasis.probe import own_addresses
from anabasis.verdicts import Verdicts, ask

NAME = "reach"

Service = Annotated[str | None, typer.Option("--service", help="Only this service: tcp/443, https, any, or a set.")]
Family = Annotated[int | None, typer.Option("--family", help="Only this address family: 4 or 6.")]


Boxes = Annotated[bool, typer.Option("--boxes", help="What each segment may ask of the boxes' own addresses.")]


def command(
    design_file: DesignFile,
    service: Service = None,
    family: Family = None,
    boxes: Boxes = False,
    fail: Fail = None,
    at: At = None,
    as_json: AsJson = False,
) -> None:
    """Say for every ordered pair of segments which flows pass, and what stops the rest first. Tables fold transits and what nobody stands in."""
    climb = climb_of(design_file, fail, at)
    verdicts = climb.verdicts(ask(climb.site, service, family))
    if boxes:
        _own(verdicts, as_json)
        return
    if as_json:
        print_json(verdicts.as_dict())
        return
    segments = climb.site.segments.all
    folded = {s.name for s in segments if s.kind == "transit" or not s.attachments}
    shown = [
        (v.source, v.target, v.verdict, v.layer, v.reason)
        for v in verdicts.all
        if v.source not in folded and v.target not in folded
    ]
    print_table(("from", "to", "verdict", "layer", "reason"), shown, "Fewer than two segments: nothing to reach.")
    if folded:
        print(f"Folded, as nobody stands there: {', '.join(sorted(folded))}.")


def _own(verdicts: Verdicts, as_json: bool) -> None:
    found = own_addresses(verdicts)
    rows = [
        {"from": c.segment, "device": at.device, "interface": at.interface, "address": at.address, "flows": c.flows}
        for c in found.cells
        for at in (found.columns[c.column],)
    ]
    if as_json:
        print_json(rows)
        return
    shown = [
        (c.segment, f"{at.device} {at.interface}", at.address, "; ".join(f["services"] for f in c.flows))
        for c in found.cells
        for at in (found.columns[c.column],)
    ]
    print_table(("from", "box", "address", "is answered"), shown, "No box answers anything.")
