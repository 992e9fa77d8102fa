"""RESTCONF for all stand-in boxes (RFC 8040), read only: the port that is asked tells which box is meant."""

from __future__ import annotations

import asyncio
import base64
from contextlib import suppress
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import unquote

from fastapi import FastAPI, Request, Response
from fastapi.responses import JSONResponse

from anabasis.design import Tree
from anabasis.standin.boxes import SLOW_S, Box, Manner

JSON = "application/yang-data+json"
HOST_META = '<XRD xmlns="http://docs.oasis-open.org/ns/xri/xrd-1.0"><Link rel="restconf" href="/restconf"/></XRD>'
KEYS = ("name", "vid", "vids", "type", "destination-prefix")


def make_app(boxes: list[Box], password: str = "") -> FastAPI:
    """Return the application. `password`: what HTTP Basic must carry, whoever asks; empty = nothing is asked for."""
    app = FastAPI(openapi_url=None)
    by_port = {box.port: box for box in boxes}

    @app.middleware("http")
    async def manners(request: Request, call: Any) -> Response:
        box = by_port.get(request.scope["server"][1])
        if box is None:
            return _error(404, "invalid-value")
        if box.manner == Manner.SILENT:
            with suppress(asyncio.CancelledError):
                await asyncio.sleep(3600)
        if box.manner == Manner.SLOW:
            await asyncio.sleep(SLOW_S)
        if box.manner == Manner.REFUSING or (password and not _knows(request, password)):
            return _error(401, "access-denied")
        request.state.box = box
        answer: Response = await call(request)
        return answer

    @app.get("/.well-known/host-meta")
    def host_meta() -> Response:
        return Response(HOST_META, media_type="application/xrd+xml")

    @app.get("/restconf")
    def root() -> Response:
        said: Tree = {"data": {}, "operations": {}, "yang-library-version": "2019-01-04"}
        return JSONResponse({"ietf-restconf:restconf": said}, media_type=JSON)

    @app.get("/restconf/data")
    def everything(request: Request) -> Response:
        return JSONResponse({"ietf-restconf:data": request.state.box.data}, media_type=JSON)

    @app.get("/restconf/data/{path:path}")
    def one(path: str, request: Request) -> Response:
        raw = str(request.scope.get("raw_path", b"").decode("ascii", "replace")).partition("/restconf/data/")[2]
        found = _resource(request.state.box.data, list(PurePosixPath((raw or path).partition("?")[0]).parts))
        return _error(404, "invalid-value") if found is None else JSONResponse(found, media_type=JSON)

    return app


def _knows(request: Request, password: str) -> bool:
    kind, _, held = request.headers.get("authorization", "").partition(" ")
    try:
        return kind.lower() == "basic" and base64.b64decode(held).decode().partition(":")[2] == password
    except ValueError:
        return False


def _resource(data: Any, path: list[str]) -> Tree | None:
    """Return the resource at a path, under its name (RFC 8040 section 3.5.3): an entry of a list is named by its key."""
    module = ""
    for k, step in enumerate(path):
        name, _, key = step.partition("=")
        name, key = unquote(name), unquote(key)
        module = name.partition(":")[0] if ":" in name else module
        data = data.get(name) if isinstance(data, dict) else None
        if key:
            entries = [e for e in data if isinstance(e, dict)] if isinstance(data, list) else []
            data = next((e for e in entries if key in (str(e.get(x)) for x in KEYS if x in e)), None)
        if data is None:
            return None
        if k == len(path) - 1:
            called = name if ":" in name else f"{module}:{name}"
            return {called: [data] if key else data}
    return None


def _error(status: int, tag: str) -> Response:
    said = {"ietf-restconf:errors": {"error": [{"error-type": "protocol", "error-tag": tag}]}}
    return JSONResponse(said, status_code=status, media_type=JSON)
