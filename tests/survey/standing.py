"""Boxes of the demo that answer on loopback, for tests that ask them."""

from __future__ import annotations

import asyncio
import json
import os
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager

from anabasis.design import load_file
from anabasis.standin import Access, Manner, boxes_for, serve
from anabasis.standin.boxes import Box
from anabasis.survey import Credentials
from tests.sites import Tree

DEMO: Tree = json.loads(json.dumps(load_file("demo/tidewrack.yaml").raw))
ACCESS = Access(user="reader", secret="secret-secret", privacy="private-private", password="by hand")
KNOWN = Credentials(user="anybody", password="by hand")
V3 = Credentials(snmp_user="reader", snmp_secret="secret-secret", snmp_privacy="private-private")


def free_ports(wanted: int) -> int:
    """Return the first of some ports in a row that nobody listens on."""
    mine = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw")) % 4  # workers run beside each other
    for first in range(20_000 + 2_900 * mine, 22_900 + 2_900 * mine, 100):
        try:
            for k in range(wanted):
                for kind in (socket.SOCK_STREAM, socket.SOCK_DGRAM):
                    with socket.socket(socket.AF_INET, kind) as held:
                        held.bind(("127.0.0.1", first + k))
        except OSError:
            continue
        return first
    raise AssertionError("no ports")


@contextmanager
def standing(
    manners: dict[str, Manner], own: bool = True, only: tuple[str, ...] = (), tree: Tree = DEMO
) -> Iterator[list[Box]]:
    """Serve boxes of the demo, or of another site, in a thread of their own."""
    boxes = boxes_for(tree, free_ports(len(DEMO["devices"]) + 1), manners, own)
    boxes = [b for b in boxes if not only or b.name in only]
    ready, loop_of, stop_of = threading.Event(), [], []

    async def go() -> None:
        loop_of.append(asyncio.get_running_loop())
        stop_of.append(asyncio.Event())
        await serve(boxes, ACCESS, ready.set, stop_of[0])

    thread = threading.Thread(target=lambda: asyncio.run(go()), daemon=True)
    thread.start()
    assert ready.wait(60)
    try:
        yield boxes
    finally:
        loop_of[0].call_soon_threadsafe(stop_of[0].set)
        thread.join(20)
