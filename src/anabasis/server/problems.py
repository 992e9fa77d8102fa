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
    NotAllowed,
    NothingToUndo,
    NotHolding,
    NotSignedIn,
    Outdated,
    Stopped,
    StoreUnavailable,
    TooLarge,
    TooManyTries,
    UnknownPlace,
    WorkersLost,
)

STATUS: dict[type[AnabasisError], int] = {
    UnknownPlace: 404,
    InputRefused: 422,
    NoSuchThing: 404,
    Outdated: 412,
    MissingVersion: 428,
    NothingToUndo: 409,
    NotHolding: 409,
    Stopped: 409,
    NotSignedIn: 401,
    NotAllowed: 403,
    TooManyTries: 429,
    TooLarge: 413,
    StoreUnavailable: 503,
    WorkersLost: 503,
    AnabasisError: 500,
}


def status_of(error: AnabasisError) -> int:
    """Return the status of an error: that of its nearest class in the tree."""
    return next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)


def _problem(status: int, title: str, detail: str, **more: Any) -> JSONResponse:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    return JSONResponse(body, status, media_type="application/problem+json")


def answer(error: AnabasisError) -> JSONResponse:
    """Return an error of ours as problem details."""
    more: dict[str, Any] = {}
    if isinstance(error, InputRefused):
        more["errors"] = [p.as_dict() | {"sentence": p.sentence()} for p in error.problems]
    if isinstance(error, Outdated):
        more |= {"seen": error.seen, "now": error.now, "changes": list(error.changes), "clash": error.clash}
    if isinstance(error, NotHolding):
        more["failing"] = list(error.failing)
    told = _problem(status_of(error), error.title, str(error), **more)
    if isinstance(error, TooManyTries):
        told.headers["Retry-After"] = str(error.wait_s)
    if isinstance(error, NotSignedIn):
        told.headers["WWW-Authenticate"] = 'Bearer realm="anabasis"'  # RFC 6750 section 3
    return told


def install(app: FastAPI) -> None:
    """Make the application answer every error as problem details."""

    @app.exception_handler(AnabasisError)
    def _ours(_: Request, error: AnabasisError) -> JSONResponse:
        return answer(error)

    @app.exception_handler(RequestValidationError)
    def _malformed(_: Request, error: RequestValidationError) -> JSONResponse:
        errors = [
            {"pointer": "/" + "/".join(map(str, e["loc"])), "message": e["msg"], "sentence": e["msg"]}
            for e in error.errors()
        ]
        return _problem(422, "The request was refused", "; ".join(str(e["message"]) for e in errors), errors=errors)

    @app.exception_handler(RecursionError)
    def _too_deep(_: Request, error: RecursionError) -> JSONResponse:
        return _problem(422, "The request was refused", "It is nested too deep.")

    @app.exception_handler(HTTPException)
    def _plain(_: Request, error: HTTPException) -> JSONResponse:
        return _problem(error.status_code, str(error.detail), str(error.detail))


def described(schema: dict[str, Any]) -> dict[str, Any]:
    """Say in an OpenAPI description that every refusal is problem details (RFC 9457), in the place of the framework's own form."""
    parts = schema.setdefault("components", {}).setdefault("schemas", {})
    for framework in ("HTTPValidationError", "ValidationError"):
        parts.pop(framework, None)
    schema["components"]["securitySchemes"] = {"token": {"type": "http", "scheme": "bearer"}}
    schema["security"] = [{"token": []}]
    text = {"type": "string"}
    told = {"pointer": text, "message": text, "sentence": text}
    parts["Problem"] = {
        "type": "object",
        "required": ["type", "title", "status", "detail"],
        "properties": {
            "type": text,
            "title": text,
            "status": {"type": "integer"},
            "detail": text,
            "errors": {"type": "array", "items": {"type": "object", "properties": told}},
        },
    }
    content = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
    for path in schema["paths"].values():
        for operation in path.values():
            operation["responses"].pop("422", None)
            operation["responses"]["default"] = {"description": "Refused, and why", "content": content}
    return schema
