"""Asking one box by RESTCONF (RFC 8040): the data of its modules, read only."""

from __future__ import annotations

import json
import re
from pathlib import PurePosixPath

import httpx2 as httpx

from anabasis.design import Tree
from anabasis.interchange import MODULES_READ
from anabasis.survey.targets import RESTCONF_PORT, Credentials, Target

LIMIT_BYTES = 32 * 1024 * 1024
JSON = "application/yang-data+json"
NOT_THERE = (400, 404, 405, 406, 413, 501)
ROOT = re.compile(r'href=["\']([^"\']{1,200})["\']')


class NotAllowed(Exception):
    """The box does not take the credentials."""


class TooMuch(Exception):
    """The box says more than is read."""


async def ask(target: Target, credentials: Credentials, timeout_s: float) -> Tree | None:
    """Return what a box says; None where it knows none of the modules. Raises httpx.HTTPError, ValueError, NotAllowed, TooMuch."""
    scheme, port = ("http" if target.here else "https"), target.port or RESTCONF_PORT
    host = f"[{target.host}]" if ":" in target.host else target.host
    auth = (credentials.user, credentials.password) if credentials.user else None
    async with httpx.AsyncClient(
        base_url=f"{scheme}://{host}:{port}", auth=auth, timeout=timeout_s, follow_redirects=False, trust_env=False
    ) as client:
        root = await _root(client)
        whole = await _get(client, f"{root}/data")
        if whole is not None:
            held = whole.get("ietf-restconf:data", whole)
            return held if isinstance(held, dict) else None
        out: Tree = {}
        for member in MODULES_READ:
            out |= await _get(client, f"{root}/data/{member}") or {}
        return out or None


async def _root(client: httpx.AsyncClient) -> str:
    """Return where its resources begin (RFC 8040 section 3.1)."""
    said = await client.get("/.well-known/host-meta", headers={"Accept": "application/xrd+xml"})
    if said.status_code in (401, 403):
        raise NotAllowed
    found = ROOT.search(said.text[:10_000]) if said.status_code == 200 and "restconf" in said.text[:10_000] else None
    where = PurePosixPath(found[1]) if found else PurePosixPath()
    return str(where) if where.is_absolute() else "/restconf"


async def _get(client: httpx.AsyncClient, path: str) -> Tree | None:
    async with client.stream("GET", path, headers={"Accept": JSON}) as said:
        if said.status_code in (401, 403):
            raise NotAllowed
        if said.status_code in NOT_THERE:
            return None
        if said.status_code != 200:
            raise ValueError(said.status_code)
        held = bytearray()
        async for part in said.aiter_bytes():
            held += part
            if len(held) > LIMIT_BYTES:
                raise TooMuch
    try:
        data = json.loads(held)
    except RecursionError:
        raise ValueError(path) from None
    if not isinstance(data, dict):
        raise ValueError(path)
    return data
