"""`anabasis survey`: what a living site says of itself, held against a design."""

from __future__ import annotations

import asyncio
import sys
from getpass import getpass
from pathlib import Path
from typing import Annotated, Any

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, print_json, print_table
from anabasis.design import load_file, parse_design
from anabasis.design.edits import difference
from anabasis.design.files import dump_json, dump_yaml
from anabasis.facts import Answer, Differs
from anabasis.interchange import drift, take_over
from anabasis.wording import drift_said, place_of, silence_said, value_said

NAME = "survey"
EMPTY: dict[str, Any] = {"anabasis": 1, "name": "As surveyed", "devices": []}
Hosts = Annotated[
    list[str], typer.Argument(metavar="HOST...", help="HOST, HOST:PORT, [2001:db8::1]; snmp:// or restconf:// before it = that alone.")
]  # fmt: skip
Into = Annotated[Path | None, typer.Option("--into", metavar="DESIGN_FILE", help="Left out = an empty design.")]
Save = Annotated[
    Path | None,
    typer.Option("--save", metavar="FILE", help="Write the design that says what the site says, as YAML or JSON."),
]
Ask = Annotated[bool, typer.Option("--ask", help="Ask for credentials instead of taking them from the environment.")]
Patience = Annotated[float, typer.Option("--patience", min=0.1, max=60, help="Seconds that a box may keep silent.")]


def command(
    hosts: Hosts,
    into: Into = None,
    save: Save = None,
    ask: Ask = False,
    patience: Patience = 4.0,
    as_json: AsJson = False,
) -> None:
    """Ask boxes by RESTCONF and SNMP what they are, and hold it against a design; exit status 1 where something differs or keeps silent.

    Nothing is written to a box, and nobody else is asked. Credentials come from ANABASIS_SNMP_COMMUNITY, or ANABASIS_SNMP_USER, _SECRET and
    _PRIVACY, and ANABASIS_RESTCONF_USER and _PASSWORD; they are kept nowhere. Ctrl+C stops it with what is known by then.
    """
    from anabasis.survey import (
        Credentials,
        Survey,
        from_environment,
        parse_targets,
        run,
    )  # the other commands ask nobody

    survey = Survey(parse_targets(hosts))
    credentials = from_environment()
    if ask:
        credentials = Credentials(
            community=getpass("SNMP community: ") or "public", user=input("RESTCONF user: "), password=getpass("RESTCONF password: ")
        )  # fmt: skip

    def told(answer: Answer) -> None:
        said = silence_said(answer.why) if answer.why else f"{answer.box} by {' and '.join(answer.by)}"
        print(f"{len(survey.answers)}/{len(survey.targets)}  {answer.target}: {said}", file=sys.stderr)

    try:
        asyncio.run(run(survey, credentials, told, patience))
    except KeyboardInterrupt:
        survey.stopped = True
    tree = load_file(into).raw if into is not None else EMPTY
    found = drift(tree, survey.seen)
    after = take_over(tree, [d for d in found if d.what != Differs.DESIGN_ONLY or into is not None])
    if save is not None:
        parse_design(after)
        save.write_text(dump_json(after) if save.suffix == ".json" else dump_yaml(after), encoding="utf-8")
    silent = [a for a in survey.answers if a.why is not None]
    if as_json:
        answers = [{"target": a.target, "box": a.box or None, "by": a.by, "why": a.why} for a in survey.answers]
        rows = [{"what": d.what, "device": d.device or None, "path": d.path, "design": d.design, "site": d.site, "sentence": drift_said(d)} for d in found]  # fmt: skip
        print_json({"answers": answers, "differs": rows, "edits": difference(tree, after)})
    else:
        rows_of = [(d.device, place_of(d), value_said(d.design), value_said(d.site), d.what) for d in found]
        print_table(("box", "what", "design", "site", "how"), rows_of, "The site is as the design has it.")
        print_table(
            ("asked", "why it is not known"),
            [(a.target, silence_said(a.why)) for a in silent if a.why],
            "Everybody answered.",
        )
    raise typer.Exit(STOPPED if found or silent else OK)
