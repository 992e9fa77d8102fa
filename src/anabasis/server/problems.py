"""Errors as problem details (RFC 9457). The one place where our errors get a status."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse

from anabasis.errors import (
    AnabasisError,
    InputRefused,
    MissingVersion,
    NoSuchThing,
    NothingToUndo,
    Outdated,
    StoreUnavailable,
    UnknownPlace,
)

STATUS: dict[type[AnabasisError], int] = {
    UnknownPlace: 404,
    InputRefused: 422,
    NoSuchThing: 404,
    Outdated: 412,
    MissingVersion: 428,
    NothingToUndo: 409,
    StoreUnavailable: 503,
    AnabasisError: 500,
}


def status_of(error: AnabasisError) -> int:
    """Return the status of an error: that of its nearest class in the tree."""
    return next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)


def _problem(status: int, title: str, detail: str, **more: Any) -> JSONResponse:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    return JSONResponse(body, status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Make the application answer every error as problem details."""

    @app.exception_handler(AnabasisError)
    def _ours(_: Request, error: AnabasisError) -> JSONResponse:
        more: dict[str, Any] = {}
        if isinstance(error, InputRefused):
            more["errors"] = [p.as_dict() | {"sentence": p.sentence()} for p in error.problems]
        if isinstance(error, Outdated):
            more |= {"seen": error.seen, "now": error.now, "changes": list(error.changes)}
        return _problem(status_of(error), error.title, str(error), **more)

    @app.exception_handler(RequestValidationError)
    def _malformed(_: Request, error: RequestValidationError) -> JSONResponse:
        errors = [
            {"pointer": "/" + "/".join(map(str, e["loc"])), "message": e["msg"], "sentence": e["msg"]}
            for e in error.errors()
        ]
        return _problem(422, "The request was refused", "; ".join(str(e["message"]) for e in errors), errors=errors)

    @app.exception_handler(HTTPException)
    def _plain(_: Request, error: HTTPException) -> JSONResponse:
        return _problem(error.status_code, str(error.detail), str(error.detail))
