"""The application: routers, errors as problem details, and the built front end."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from anyio import to_thread
from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.responses import FileResponse, Response
from starlette.types import Scope

from anabasis import __version__
from anabasis.design import load_file
from anabasis.server import (
    campaigns,
    designs,
    drafts,
    failover,
    health,
    history,
    live,
    making,
    migrations,
    pages,
    people,
    problems,
    proofs,
    sheets,
    surveys,
    tables,
    views,
    work,
)
from anabasis.server.guard import Guard
from anabasis.server.logs import Counts, Logged
from anabasis.server.state import Clock, State, utc_now
from anabasis.server.turns import THREADS
from anabasis.store import Listener, People, Store, connect

LOOPBACK = ("127.0.0.1", "localhost")


class _Pages(StaticFiles):
    """The front end: a path below `/d` or `/campaigns` is a page of it, and gets the one page there is; any other that is no file is nothing."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        try:
            told = await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.partition("/")[0] not in ("d", "campaigns"):
                raise
            told = FileResponse(Path(str(self.directory)) / "index.html")
        # The build names what it hashes: those never change, and whatever is not hashed is asked for each time (RFC 9111 section 5.2.2).
        told.headers["Cache-Control"] = (
            "public, max-age=31536000, immutable" if path.startswith("assets/") else "no-cache"
        )
        return told


def create_app(
    store: Store,
    clock: Clock = utc_now,
    web: Path | None = None,
    accounts: People | None = None,
    hosts: Sequence[str] = LOOPBACK,
    starts: Path | None = None,
    docs: Path | None = None,
    scheduler: str | None = None,
) -> FastAPI:
    """Return the application over a store.

    `web`: the folder of the built front end. `starts`: the folder of starting points for new designs. `docs`: that of the documentation. `scheduler`: of Dask, for campaigns. `hosts`: the names it may be called by; any other is refused, so that a page elsewhere
    cannot reach a loopback server through a name of its own.
    """
    files = sorted(starts.glob("*.yaml")) if starts is not None else []
    state = State(store, clock, accounts, {f.stem: load_file(f).raw for f in files}, scheduler)

    @asynccontextmanager
    async def living(_: FastAPI) -> AsyncIterator[None]:
        to_thread.current_default_thread_limiter().total_tokens = THREADS
        state.hub.bind(asyncio.get_running_loop())
        listener = Listener(store.engine, state.hub.hear, state.hub.alive)
        listener.start()
        yield
        state.sweeps.end()
        state.asking.end()
        state.knowing.end()
        state.proofs.end()
        await asyncio.to_thread(state.campaigning.end)
        await asyncio.to_thread(listener.stop)

    app = FastAPI(
        title="Anabasis",
        version=__version__,
        description="Map VLANs onto firewall interfaces, zones and routes, and compute exactly which segments may reach which.",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
        lifespan=living,
    )
    app.state.anabasis = state
    app.openapi = lambda: problems.described(FastAPI.openapi(app))  # type: ignore[method-assign]
    for part in (
        people,
        designs,
        drafts,
        making,
        tables,
        surveys,
        sheets,
        migrations,
        proofs,
        campaigns,
        views,
        failover,
        history,
        live,
        work,
    ):
        app.include_router(part.router, prefix="/api")
    app.include_router(campaigns.defence, prefix="/api")
    app.include_router(history.whole, prefix="/api")
    app.include_router(making.whole, prefix="/api")
    app.include_router(people.door)
    app.state.docs = docs
    app.include_router(pages.router)
    problems.install(app)
    app.include_router(health.router)
    app.state.counts = Counts()
    app.add_middleware(GZipMiddleware, minimum_size=1024, compresslevel=5)
    app.add_middleware(Guard)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=list(hosts), www_redirect=False)
    app.add_middleware(Logged, counts=app.state.counts)
    if web is not None and web.is_dir():
        app.mount("/", _Pages(directory=web, html=True), name="web")
    return app


def description() -> dict[str, Any]:
    """Return the OpenAPI description of the HTTP interface; no database is asked."""
    return create_app(Store(connect("postgresql+psycopg://127.0.0.1/none"))).openapi()
