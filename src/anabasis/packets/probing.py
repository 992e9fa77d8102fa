"""Packets sent, and who answers: listeners in every namespace, and askers that wait a moment."""

from __future__ import annotations

import selectors
import socket
import struct
import threading
import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

ICMP, TCP, UDP, ICMP6 = 1, 6, 17, 58
WAIT_S = 1.6
"""How long an answer is waited for; longer than the kernel takes to send the first packet of a connection again."""


class Seen(StrEnum):
    """What became of a probe."""

    ANSWERED = "answered"
    SILENT = "silent"
    REFUSED = "refused"
    UNSENT = "unsent"
    """The sender has no way to send it at all."""


@dataclass(frozen=True)
class Probe:
    """One packet to send: TCP, UDP, or the echo of ICMP."""

    box: str
    """The namespace it is sent from."""
    source: str
    target: str
    protocol: int
    number: int


def listeners(services: Iterable[tuple[int, int]]) -> list[socket.socket]:
    """Return sockets that take connections and packets to some services, on every address of the namespace of this thread."""
    out = []
    for protocol, port in services:
        kind = socket.SOCK_STREAM if protocol == TCP else socket.SOCK_DGRAM
        one = socket.socket(socket.AF_INET6, kind)
        one.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        one.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_V6ONLY, 0)
        if protocol == UDP:
            one.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_RECVPKTINFO, 1)
        one.setblocking(False)
        one.bind(("::", port))
        if protocol == TCP:
            one.listen(64)
        out.append(one)
    return out


class Answering:
    """Takes connections, and sends back what comes to UDP, from the address it was sent to."""

    def __init__(self, sockets: Sequence[socket.socket]) -> None:
        self._ask = selectors.DefaultSelector()
        self._sockets = sockets
        for one in sockets:
            self._ask.register(one, selectors.EVENT_READ)
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._answer, daemon=True)

    def __enter__(self) -> Answering:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        self._thread.join(5)
        for one in self._sockets:
            one.close()
        self._ask.close()

    def _answer(self) -> None:
        while not self._ended.is_set():
            for key, _ in self._ask.select(0.2):
                one: socket.socket = key.fileobj  # type: ignore[assignment]
                try:
                    if one.type == socket.SOCK_STREAM:
                        one.accept()[0].close()
                    else:
                        data, beside, _, sender = one.recvmsg(2048, 256)
                        mine = [
                            (lv, k, d[:16] + struct.pack("I", 0))
                            for lv, k, d in beside
                            if (lv, k) == (socket.IPPROTO_IPV6, socket.IPV6_PKTINFO)
                        ]
                        one.sendmsg([data], mine, 0, sender)
                except OSError:
                    continue


def asker(probe: Probe) -> socket.socket | Seen:
    """Begin a probe in the namespace of this thread; return its socket, or what became of it at once."""
    family = socket.AF_INET6 if ":" in probe.target else socket.AF_INET
    kind = socket.SOCK_STREAM if probe.protocol == TCP else socket.SOCK_DGRAM
    protocol = probe.protocol if probe.protocol in (ICMP, ICMP6) else 0
    one = socket.socket(family, kind, protocol)
    one.setblocking(False)
    try:
        one.bind((probe.source, 0))
        if probe.protocol in (ICMP, ICMP6):
            one.connect((probe.target, 0))
            one.send(struct.pack("!BBHHH", probe.number, 0, 0, 0, 1) + b"anabasis")
        else:
            one.connect((probe.target, probe.number))
            if probe.protocol == UDP:
                one.send(b"anabasis")
    except BlockingIOError:
        return one
    except ConnectionRefusedError:
        one.close()
        return Seen.REFUSED
    except OSError:
        one.close()
        return Seen.UNSENT
    return one


def wait_for(askers: Sequence[tuple[Probe, socket.socket | Seen]], wait_s: float = WAIT_S) -> list[Seen]:
    """Return what became of probes that were begun, each in its place."""
    out = [a if isinstance(a, Seen) else Seen.SILENT for _, a in askers]
    ask = selectors.DefaultSelector()
    for k, (probe, one) in enumerate(askers):
        if isinstance(one, socket.socket):
            ask.register(one, selectors.EVENT_WRITE if probe.protocol == TCP else selectors.EVENT_READ, k)
    until = time.monotonic() + wait_s
    while ask.get_map() and (left := until - time.monotonic()) > 0:
        for key, _ in ask.select(left):
            out[key.data] = _became(askers[key.data][0], key.fileobj)  # type: ignore[arg-type]
            ask.unregister(key.fileobj)
    for _, one in askers:
        if isinstance(one, socket.socket):
            one.close()
    ask.close()
    return out


def _became(probe: Probe, one: socket.socket) -> Seen:
    if probe.protocol == TCP:
        error = one.getsockopt(socket.SOL_SOCKET, socket.SO_ERROR)
        return Seen.ANSWERED if error == 0 else Seen.REFUSED if error == 111 else Seen.SILENT
    try:
        one.recv(2048)
    except ConnectionRefusedError:
        return Seen.REFUSED
    except OSError:
        return Seen.SILENT
    return Seen.ANSWERED
