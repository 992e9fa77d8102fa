"""`anabasis failover`."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

import typer
from rich.console import Console

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, climb_of, print_json, print_table
from anabasis.failover import Event, Progress, sweep_failures
from anabasis.views import DrillView, drill_view

NAME = "failover"


def command(
    design_file: DesignFile,
    fail: Annotated[
        list[str] | None,
        typer.Option("--fail", help="What fails: a unit, a device, unit:port, or a cable a:1--b:2. May be repeated."),
    ] = None,
    sweep: Annotated[
        int | None, typer.Option("--sweep", min=1, max=2, help="Try every single failure, or every two.")
    ] = None,
    active: Annotated[
        list[str] | None, typer.Option("--active", help="A unit that is active now. May be repeated, one a pair.")
    ] = None,
    drill: Annotated[
        str | None, typer.Option("--drill", help="Print the steps of a failover drill of this pair.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Say who takes over when parts fail, how fast, and what reach is lost. Exit status 1 where an expectation breaks."""
    climb = climb_of(design_file)
    if drill is not None:
        _steps(drill_view(climb.drill(drill)), as_json)
        return
    if sweep is None:
        event = climb.failover(fail or [], active or [])
        if as_json:
            print_json(event.as_dict())
        else:
            _told(event)
        raise typer.Exit(STOPPED if event.settled.broken else OK)
    with Console(stderr=True).status("") as status:

        def told(progress: Progress) -> bool:
            status.update(f"{progress.done} of {progress.total} failures")
            return True

        found = sweep_failures(climb.design, sweep, told)
    if as_json:
        print_json([s.event.as_dict() | {"failed": list(s.failed), "alike": [list(a) for a in s.alike]} for s in found])
    else:
        rows = [
            (
                " and ".join(s.failed),
                f"and {len(s.alike)} alike" if s.alike else "",
                ", ".join(s.event.active) or "nobody",
                s.event.detect_ms,
                s.event.sessions,
                len(s.event.settled.lost),
                "; ".join(s.event.settled.broken),
            )
            for s in found
        ]
        print_table(
            ("failed", "", "active", "noticed after, ms", "sessions", "pairs lost", "expectations broken"),
            rows,
            "Nothing can fail.",
        )
    raise typer.Exit(OK)


def _steps(sheet: DrillView, as_json: bool) -> None:
    if as_json:
        print_json(asdict(sheet))
        return
    for line in sheet.before:
        print(f"Before: {line}")
    rows = [
        (k, s.do, ", ".join(s.active) or "nobody", s.within_ms, s.sessions, "; ".join(s.lost), s.why)
        for k, s in enumerate(sheet.steps, 1)
    ]
    print_table(("", "do", "active then", "within, ms", "sessions", "pairs that lose flows", "why"), rows, "")


def _told(event: Event) -> None:
    print(event.why)
    rows = [
        (m.at_ms, m.what, m.words, ", ".join(f"{x.source} to {x.target}" for x in m.lost), "; ".join(m.broken))
        for m in event.moments
    ]
    print_table(("ms", "", "what happens", "pairs that lose flows", "expectations broken"), rows, "")
    print(f"Sessions: {event.sessions}.")
