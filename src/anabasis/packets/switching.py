"""The wires of a lab: raw sockets on the ends of veth pairs, and the bridges between them, in one thread."""

from __future__ import annotations

import selectors
import socket
import struct
import threading

from anabasis.packets.lab import Lab
from anabasis.packets.wire import Frame

ETH_P_ALL = 0x0003
SOL_PACKET, PACKET_AUXDATA, PACKET_IGNORE_OUTGOING = 263, 8, 23
TAG_THERE = 0x10
"""TP_STATUS_VLAN_VALID: the kernel took the tag off and tells it beside the frame."""
TAG_TYPE_THERE = 0x40
BUFFER = 4 << 20


class Wires:
    """Carries frames between the elements of a lab until it is stopped. Has to be made in the namespace of the wires."""

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self.sockets: dict[str, socket.socket] = {}
        self._ask = selectors.DefaultSelector()
        self._ended = threading.Event()
        for device in lab.at:
            one = socket.socket(socket.AF_PACKET, socket.SOCK_RAW, socket.htons(ETH_P_ALL))
            one.setsockopt(SOL_PACKET, PACKET_AUXDATA, 1)
            one.setsockopt(SOL_PACKET, PACKET_IGNORE_OUTGOING, 1)
            one.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, BUFFER)
            one.bind((device, 0))
            one.setblocking(False)
            self.sockets[device] = one
            self._ask.register(one, selectors.EVENT_READ, device)
        self._thread = threading.Thread(target=self._carry, daemon=True)

    def __enter__(self) -> Wires:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        self._thread.join(5)
        for one in self.sockets.values():
            one.close()
        self._ask.close()

    def _carry(self) -> None:
        while not self._ended.is_set():
            for key, _ in self._ask.select(0.2):
                for _ in range(64):
                    try:
                        raw, beside, _, _ = key.fileobj.recvmsg(65_600, 256)  # type: ignore[union-attr]
                    except (BlockingIOError, OSError):
                        break
                    self._hears(key.data, _with_tag(raw, beside))

    def _hears(self, device: str, raw: bytes) -> None:
        frame = Frame.read(raw)
        if frame is None:
            return
        number, port = self.lab.at[device]
        for out, left in self.lab.elements[number].receive(port, frame):
            there = self.lab.leaves.get((number, out))
            if there is not None:
                try:
                    self.sockets[there].send(left.written())
                except OSError:
                    continue


def _with_tag(raw: bytes, beside: list[tuple[int, int, bytes]]) -> bytes:
    """Put the tag back that the kernel took off (packet(7), PACKET_AUXDATA)."""
    for level, kind, data in beside:
        if level == SOL_PACKET and kind == PACKET_AUXDATA and len(data) >= 20:
            status, _, _, _, _, tci, tag_type = struct.unpack("=IIIHHHH", data[:20])
            if status & TAG_THERE:
                word = tag_type if status & TAG_TYPE_THERE else 0x8100
                return raw[:12] + struct.pack("!HH", word, tci) + raw[12:]
    return raw
