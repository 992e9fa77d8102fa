"""Asking one box by SNMP, v2c (RFC 3416) or v3 (RFC 3414): a walk of the subtrees that are read, nothing else."""

from __future__ import annotations

from typing import Any

from pyasn1.type.univ import Integer, ObjectIdentifier, OctetString
from pysnmp.hlapi.v3arch.asyncio import (
    USM_AUTH_HMAC96_SHA,
    USM_PRIV_CFB128_AES,
    CommunityData,
    ContextData,
    ObjectIdentity,
    ObjectType,
    SnmpEngine,
    Udp6TransportTarget,
    UdpTransportTarget,
    UsmUserData,
    bulk_walk_cmd,
    get_cmd,
)

from anabasis.interchange import SYSTEM_NAME, WALKED, Objects, Value
from anabasis.survey.restconf import NotAllowed, TooMuch
from anabasis.survey.targets import SNMP_PORT, Credentials, Target

AT_ONCE = 40
"""How many objects one answer brings (max-repetitions, RFC 3416 section 4.2.3)."""
MOST_OBJECTS = 500_000
REFUSALS = (
    "unknownUserName",
    "wrongDigest",
    "authorizationError",
    "noAccess",
    "unsupportedSecurityLevel",
    "decryptionError",
)


def make_engine() -> Any:
    """Return what speaks for a whole survey: to make one takes as long as to ask a box."""
    return SnmpEngine()


async def ask(engine: Any, target: Target, credentials: Credentials, timeout_s: float) -> Objects | None:
    """Return the objects of a box; None where nobody answers. Raises NotAllowed, TooMuch, ValueError for an answer that makes no sense."""
    kind = Udp6TransportTarget if ":" in target.host else UdpTransportTarget
    where = await kind.create((target.host, target.port or SNMP_PORT), timeout=timeout_s, retries=1)
    who = _who(credentials)
    # who is there at all: a walk of a silent box would wait for every subtree
    said = await get_cmd(engine, who, where, ContextData(), _object(SYSTEM_NAME), lookupMib=False)
    if not _heard(said):
        return None
    out: Objects = {}
    for tree in WALKED:
        await _walk(engine, who, where, tree, out)
    return out


async def _walk(engine: Any, who: Any, where: Any, tree: tuple[int, ...], out: Objects) -> None:
    last: tuple[int, ...] = tree
    walk = bulk_walk_cmd(engine, who, where, ContextData(), 0, AT_ONCE, _object(tree), lookupMib=False)
    async for said in walk:
        if not _heard(said):
            return
        for name, value in said[3]:
            oid = tuple(name)
            if oid[: len(tree)] != tree:
                return
            if oid <= last:
                raise ValueError(oid)  # a box whose objects do not grow would be walked for ever
            last = oid
            held = _value(value)
            if held is not None:
                out[oid] = held
            if len(out) > MOST_OBJECTS:
                raise TooMuch


def _who(credentials: Credentials) -> Any:
    if not credentials.snmp_user:
        return CommunityData(credentials.community, mpModel=1)
    secrets: dict[str, Any] = {}
    if credentials.snmp_secret:
        secrets |= {"authKey": credentials.snmp_secret, "authProtocol": USM_AUTH_HMAC96_SHA}
    if credentials.snmp_secret and credentials.snmp_privacy:
        secrets |= {"privKey": credentials.snmp_privacy, "privProtocol": USM_PRIV_CFB128_AES}
    return UsmUserData(credentials.snmp_user, **secrets)


def _object(oid: tuple[int, ...]) -> Any:
    return ObjectType(ObjectIdentity(oid))


def _heard(said: Any) -> bool:
    """Tell whether an answer came. Raises NotAllowed where it says that the credentials are no good."""
    indication, status, _, _ = said
    words = f"{type(indication).__name__} {indication} {status.prettyPrint() if status else ''}"
    if indication and any(w.lower() in words.lower().replace(" ", "") for w in REFUSALS):
        raise NotAllowed
    if status and int(status) in (6, 16):
        raise NotAllowed
    return not indication and not status


def _value(value: Any) -> Value | None:
    if isinstance(value, ObjectIdentifier):
        return tuple(value)
    if isinstance(value, OctetString):
        return bytes(value)
    if isinstance(value, Integer):
        return int(value)
    return None
