"""The application: routers, errors as problem details, and the built front end."""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.responses import FileResponse, Response
from starlette.types import Scope

from anabasis import __version__
from anabasis.server import designs, drafts, failover, problems, views
from anabasis.server.state import Clock, State, utc_now
from anabasis.store import Store


class _Pages(StaticFiles):
    """The front end: a path that is no file is a page of it, and gets the one page there is."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        try:
            return await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.startswith(("api/", "assets/")):
                raise
            return FileResponse(Path(str(self.directory)) / "index.html")


def create_app(store: Store, clock: Clock = utc_now, web: Path | None = None) -> FastAPI:
    """Return the application over a store; `web` is the folder of the built front end."""
    app = FastAPI(
        title="Anabasis",
        version=__version__,
        description="Map VLANs onto firewall interfaces, zones and routes, and compute exactly which segments may reach which.",
        docs_url="/api/docs",
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
    )
    app.state.anabasis = State(store, clock)
    for part in (designs, drafts, views, failover):
        app.include_router(part.router, prefix="/api")
    problems.install(app)
    if web is not None and web.is_dir():
        app.mount("/", _Pages(directory=web, html=True), name="web")
    return app
