"""`anabasis build`: the ordered steps from one state of a site to another."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from anabasis.building import BuildSheet, Order, build_sheet, sheet_rows
from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, print_json, print_table
from anabasis.design import Tree, load_file
from anabasis.errors import Problem, UnknownPlace, nearest

NAME = "build"
NOTHING: Tree = {"anabasis": 1, "name": "nothing", "devices": []}


def command(
    design_file: DesignFile,
    since: Annotated[
        Path | None, typer.Option("--from", help="What is there now: another design; left out = nothing.")
    ] = None,
    device: Annotated[str | None, typer.Option("--device", help="The steps at this box alone.")] = None,
    order: Annotated[
        Order, typer.Option("--order", help="boxes = all of a box at one go; layers = each kind of step at all boxes.")
    ] = "boxes",
    as_json: AsJson = False,
) -> None:
    """Print the build sheet; exit status 1 where some step cuts the operator off from a box that is still to be changed."""
    wanted = load_file(design_file)
    there = load_file(since).raw if since is not None else NOTHING
    names = [d.name for d in wanted.design.devices] + [d["name"] for d in there.get("devices", [])]
    if device is not None and device not in names:
        known = ", ".join(dict.fromkeys(names))
        raise UnknownPlace(
            [Problem("/device", "there is no device of this name", repr(device), known, nearest(device, names))]
        )
    sheet = build_sheet(there, wanted.raw, order)
    rows = sheet_rows(sheet, device)
    if as_json:
        print_json(rows)
    else:
        shown = [
            (
                r["step"],
                r["title"],
                "\n".join(r["lines"]),
                "\n".join(x for x in (r["check"], r["see"]) if x),
                f"{r['wait_s']} s" if r["wait_s"] else "",
                _costs(r),
                r["undo"],
            )
            for r in rows
        ]
        print_table(
            ("step", "what", "do", "check, and see", "wait", "meanwhile", "to go back"),
            shown,
            "There is nothing to change.",
        )
        for line in _sums(sheet):
            print(line)
    raise typer.Exit(STOPPED if any(r["cuts"] for r in rows) else OK)


def _costs(row: dict[str, object]) -> str:
    lost, cuts = row["reach_lost"], row["cuts"]
    assert isinstance(lost, list)
    assert isinstance(cuts, list)
    said = [f"cuts you off from {', '.join(cuts)}: {row['way_back']}"] if cuts else []
    said += [f"{p['from']} → {p['to']} lost" for p in lost[:4]] + (
        [f"and {len(lost) - 4} more"] if len(lost) > 4 else []
    )
    return "\n".join(said + ["stand at the box"] * bool(row["console"]))


def _sums(sheet: BuildSheet) -> list[str]:
    out = [f"{len(sheet.steps)} steps, about {-(-sheet.seconds // 60)} minutes."]
    if sheet.live:
        out.append(
            f"{len(sheet.outages)} pairs of segments are cut off for a while; somebody is for {sheet.cut_s} s in all."
        )
        if not sheet.operator:
            out.append("The design does not say where the operator sits, so nobody looks after the way to the boxes.")
        elif sheet.unreached:
            out.append(f"The operator reaches these by no address: {', '.join(sheet.unreached)}.")
    return out
