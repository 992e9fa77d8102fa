"""All boxes of a design, answering on loopback in one process until they are stopped."""

from __future__ import annotations

import asyncio
import socket
from collections.abc import Callable
from dataclasses import dataclass, field

import uvicorn

from anabasis.climb import Climb
from anabasis.design import Tree, parse_design
from anabasis.interchange import site_data
from anabasis.standin import snmp
from anabasis.standin.boxes import Box, Manner, boxes_of
from anabasis.standin.restconf import make_app

HOST = "127.0.0.1"


@dataclass(frozen=True)
class Access:
    """What whoever asks has to know."""

    community: str = field(default="public", repr=False)
    user: str = field(default="", repr=False)
    secret: str = field(default="", repr=False)
    privacy: str = field(default="", repr=False)
    password: str = field(default="", repr=False)


def boxes_for(tree: Tree, first_port: int, manners: dict[str, Manner], own: bool) -> list[Box]:
    """Return the boxes of a document, with what is computed of their state. Raises InputRefused."""
    return boxes_of(site_data(Climb(parse_design(tree)), tree), first_port, manners, own)


async def serve(boxes: list[Box], access: Access, ready: Callable[[], None], stop: asyncio.Event | None = None) -> None:
    """Answer by RESTCONF and SNMP for every box, until `stop`, or a signal."""
    sockets = [_listen(box.port) for box in boxes]
    server = uvicorn.Server(
        uvicorn.Config(make_app(boxes, access.password), log_level="error", lifespan="off", timeout_graceful_shutdown=1)
    )
    agents = [
        await snmp.serve(box, HOST, access.community, access.user, access.secret, access.privacy) for box in boxes
    ]
    serving = asyncio.create_task(server.serve(sockets=sockets))
    while not server.started and not serving.done():
        await asyncio.sleep(0.05)
    ready()
    if stop is not None:
        await stop.wait()
        server.should_exit = True
        server.force_exit = True
    await serving
    for agent in agents:
        agent.close_dispatcher()


def _listen(port: int) -> socket.socket:
    """Return a socket that listens on loopback. Raises OSError where somebody else does."""
    held = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    held.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    held.bind((HOST, port))
    held.listen(64)
    return held
