"""`anabasis stand-in`: simulated devices that answer for a design."""

from __future__ import annotations

import asyncio
from typing import Annotated

import typer

from anabasis.cli.output import DesignFile
from anabasis.design import load_file
from anabasis.errors import InputRefused, Problem, nearest

NAME = "stand-in"
Port = Annotated[int, typer.Option("--port", min=1024, max=65_000, help="Of the first box; each further one has the next.")]  # fmt: skip
Spoil = Annotated[int, typer.Option("--spoil", min=0, max=500, help="How many differences to put into the site.")]
Seed = Annotated[int, typer.Option("--seed", help="Which differences those are.")]
Plain = Annotated[bool, typer.Option("--plain", help="Speak the modules of the standards only, not our own.")]
Of = Annotated[
    list[str] | None, typer.Option("--as", metavar="BOX=MANNER", help="A box that is slow, silent, refusing or lying. May be repeated.")
]  # fmt: skip
Told = Annotated[bool, typer.Option("--tell", help="Say what has been spoiled.")]


def command(
    design_file: DesignFile,
    port: Port = 21_000,
    spoil: Spoil = 0,
    seed: Seed = 1,
    plain: Plain = False,
    of: Of = None,
    tell: Told = False,
) -> None:
    """Answer RESTCONF and SNMP on loopback for every box of a design, until it is stopped: one port a box, the community is `public`, the v3 user
    `reader` with `secret-secret` and `private-private`."""
    from anabasis.standin import Access, Manner, boxes_for, serve
    from anabasis.standin import spoil as spoiled

    tree, faults = spoiled(load_file(design_file).raw, spoil, seed)
    manners: dict[str, Manner] = {}
    for said in of or ():
        name, _, word = said.partition("=")
        if word not in list(Manner):
            words = ", ".join(Manner)
            raise InputRefused(
                [Problem("", "no such manner", repr(word), words, nearest(word, [m.value for m in Manner]))]
            )
        manners[name] = Manner(word)
    boxes = boxes_for(tree, port, manners, not plain)
    names = [b.name for b in boxes]
    for name in manners:
        if name not in names:
            raise InputRefused(
                [Problem("", "there is no box of this name", repr(name), ", ".join(names[:12]), nearest(name, names))]
            )

    def ready() -> None:
        for box in boxes:
            print(f"127.0.0.1:{box.port}  {box.name}" + (f"  ({box.manner})" if box.manner != Manner.PLAIN else ""))
        for fault in faults if tell else ():
            print(f"spoiled: {fault.kind}  {fault.guilty[0]}")
        print(f"anabasis survey 127.0.0.1:{{{boxes[0].port}..{boxes[-1].port}}} --into {design_file}", flush=True)

    access = Access(user="reader", secret="secret-secret", privacy="private-private")
    try:
        asyncio.run(serve(boxes, access, ready))
    except KeyboardInterrupt:
        pass
    except OSError as wrong:
        raise InputRefused([Problem("", "a port is taken", str(wrong), "another --port")]) from None
