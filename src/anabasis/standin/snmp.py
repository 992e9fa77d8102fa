"""SNMP for one stand-in box (RFC 3416), v2c and v3, read only."""

from __future__ import annotations

import asyncio
from bisect import bisect_right
from typing import Any

from pysnmp.carrier.asyncio.dgram import udp
from pysnmp.entity import config, engine
from pysnmp.entity.rfc3413 import cmdrsp, context
from pysnmp.proto import rfc1902, rfc1905
from pysnmp.smi.instrum import AbstractMibInstrumController

from anabasis.interchange import Objects, Value
from anabasis.standin.boxes import SLOW_S, Box, Manner

ALL = (1,)


class _Held(AbstractMibInstrumController):  # type: ignore[misc]
    """The objects of a box, in their order."""

    def __init__(self, objects: Objects) -> None:
        self._objects = objects
        self._order = sorted(objects)

    def read_variables(self, *wanted: Any, **_: Any) -> list[Any]:
        """Answer GET."""
        return [(oid, self._value(tuple(oid)) or rfc1905.noSuchInstance) for oid, _v in wanted]

    def read_next_variables(self, *wanted: Any, **_: Any) -> list[Any]:
        """Answer GETNEXT, and each step of GETBULK."""
        out: list[Any] = []
        for oid, _v in wanted:
            k = bisect_right(self._order, tuple(oid))
            if k < len(self._order):
                out.append((rfc1902.ObjectName(self._order[k]), self._value(self._order[k])))
            else:
                out.append((oid, rfc1905.endOfMibView))
        return out

    def _value(self, oid: tuple[int, ...]) -> Any:
        value: Value | None = self._objects.get(oid)
        if value is None:
            return None
        if isinstance(value, int):
            return rfc1902.Integer32(value) if value < 2**31 else rfc1902.Gauge32(value)
        if isinstance(value, bytes):
            return rfc1902.OctetString(value)
        return rfc1902.ObjectIdentifier(value)


class _Slowly:
    """A transport whose answers wait."""

    def __init__(self, transport: Any) -> None:
        self._send = transport.send_message
        transport.send_message = self

    def __call__(self, *given: Any) -> None:
        asyncio.get_running_loop().call_later(SLOW_S / 10, self._send, *given)


async def serve(box: Box, host: str, community: str, user: str, secret: str, privacy: str) -> Any:
    """Answer for one box until its engine is closed; return that. A box that keeps silent has no agent that speaks."""
    agent = engine.SnmpEngine()
    transport = udp.UdpTransport().open_server_mode((host, box.port))
    config.add_transport(agent, udp.DOMAIN_NAME, transport)
    if box.manner == Manner.SLOW:
        _Slowly(transport)
    if box.manner != Manner.SILENT:
        known = "nobody" if box.manner == Manner.REFUSING else community
        config.add_v1_system(agent, "asked", known)
        config.add_vacm_user(agent, 2, "asked", "noAuthNoPriv", ALL)
        if user and box.manner != Manner.REFUSING:
            config.add_v3_user(
                agent, user, config.USM_AUTH_HMAC96_SHA, secret, config.USM_PRIV_CFB128_AES if privacy else config.USM_PRIV_NONE, privacy or None
            )  # fmt: skip
            config.add_vacm_user(agent, 3, user, "authPriv" if privacy else "authNoPriv", ALL)
        held = context.SnmpContext(agent)
        held.unregister_context_name(b"")
        held.register_context_name(b"", _Held(box.objects))
        for responder in (cmdrsp.GetCommandResponder, cmdrsp.NextCommandResponder, cmdrsp.BulkCommandResponder):
            responder(agent, held)
    await asyncio.sleep(0)
    return agent
