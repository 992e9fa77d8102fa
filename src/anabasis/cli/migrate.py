"""`anabasis migrate`: a design after a migration, and the build sheet between."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from anabasis.building import build_sheet, sheet_rows
from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, print_json, print_table
from anabasis.climb import Climb
from anabasis.comparison import compare_states
from anabasis.design import apply, dump_yaml, load_file
from anabasis.design.files import parse_text, read_file_text
from anabasis.design.migrating import migrate, read_plan
from anabasis.wording import noted

NAME = "migrate"


def command(
    design_file: DesignFile,
    plan: Annotated[
        Path, typer.Option("--plan", help="What is to become of it, YAML or JSON: `kind`, and what that kind asks for.")
    ],
    save: Annotated[Path | None, typer.Option("--save", help="Write the design after it to this file.")] = None,
    as_json: AsJson = False,
) -> None:
    """Work out a migration: the design after it, what it opens and closes, and the steps between; exit status 1 where it breaks an expectation."""
    before = load_file(design_file)
    found = migrate(before.raw, read_plan(parse_text(read_file_text(plan), str(plan))))
    after, design = apply(before.raw, found.patch)
    compared = compare_states((before.raw, Climb(before.design)), (after, Climb(design)))
    sheet = build_sheet(before.raw, after)
    if save is not None:
        save.write_text(dump_yaml(after), encoding="utf-8")
    if as_json:
        print_json(
            {
                "design": after,
                "edits": found.patch,
                "assumed": [noted(n) for n in found.assumed],
                "open": [noted(n) for n in found.open],
                "comparison": compared.as_dict(),
                "build": sheet_rows(sheet),
            }
        )
    else:
        print_table(
            ("", "kind", "thing", "what"),
            [(d.sign, d.kind, d.title, "\n".join(d.words)) for d in compared.differences],
            "Nothing changes.",
        )
        for word, said in (("taken for granted", found.assumed), ("left to decide", found.open)):
            for note in said:
                print(f"{word}: {noted(note)}")
        print_table(
            ("step", "what", "do", "to go back"),
            [(r["step"], r["title"], "\n".join(r["lines"]), r["undo"]) for r in sheet_rows(sheet)],
            "No steps.",
        )
        broken = ", ".join(compared.consequences.broken)
        print(f"{len(sheet.outages)} pairs cut off for a while; expectations broken: {broken or 'none'}.")
    raise typer.Exit(STOPPED if compared.consequences.broken else OK)
