"""What is logged, and what is counted: a line of JSON for every request with an id that its answer carries, and metrics in Prometheus' text form.

Nothing secret is written: of a request only the route (not the path, which may hold a link's secret), the status and the time it took.
"""

from __future__ import annotations

import logging
import re
from secrets import token_hex
from time import perf_counter
from typing import Any

from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOG = logging.getLogger("anabasis.requests")
REQUEST_ID = "X-Request-Id"
_FIT = re.compile(r"[A-Za-z0-9._-]{1,64}")
BUCKETS = (0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30)


def configured(kind: str) -> dict[str, Any]:
    """Return the configuration of Python's logging: `plain`, warnings in words; `json`, every request as one line of JSON."""
    json = kind == "json"
    fields = "%(asctime)s %(levelname)s %(name)s %(message)s"
    formatter = {"()": "pythonjsonlogger.json.JsonFormatter", "fmt": fields, "rename_fields": {"asctime": "at", "levelname": "level", "name": "log"}}  # fmt: skip
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {"one": formatter if json else {"format": fields}},
        "handlers": {"err": {"class": "logging.StreamHandler", "formatter": "one", "stream": "ext://sys.stderr"}},
        "root": {"handlers": ["err"], "level": "WARNING"},
        "loggers": {"anabasis.requests": {"level": "INFO" if json else "ERROR"}, "uvicorn": {"level": "WARNING"}},
    }


class Counts:
    """What a server has answered, and how long it took; one set an application."""

    def __init__(self) -> None:
        """Begin at nothing."""
        self.registry = CollectorRegistry()
        of = ("method", "route", "status")
        self.requests = Counter("anabasis_requests", "Requests answered", of, registry=self.registry)
        self.seconds = Histogram(
            "anabasis_request_seconds", "Time to an answer", ("route",), buckets=BUCKETS, registry=self.registry
        )
        self.pages = Gauge("anabasis_open_pages", "Lines of events that stand open", registry=self.registry)
        self.kept = Gauge("anabasis_kept_designs", "States of designs kept in memory", registry=self.registry)
        self.database = Gauge("anabasis_database_up", "1 where the database can be heard", registry=self.registry)

    def text(self) -> bytes:
        """Return all of it in Prometheus' text form."""
        return generate_latest(self.registry)


def route_of(scope: Scope) -> str:
    """Return the path of a request with the names of its parameters in the place of their values; `other` where no route took it."""
    if scope.get("route") is None:
        return "other"
    named = {str(value): f"{{{name}}}" for name, value in scope.get("path_params", {}).items()}
    return "/".join(named.get(part, part) for part in scope["path"].split("/"))


class Logged:
    """Gives every request an id, logs it and counts it."""

    def __init__(self, app: ASGIApp, counts: Counts) -> None:
        self.app, self.counts = app, counts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on and note how it was answered."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        given = Headers(scope=scope).get(REQUEST_ID, "")
        request_id = given if _FIT.fullmatch(given) else token_hex(8)
        began, status = perf_counter(), 500

        async def sent(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)[REQUEST_ID] = request_id
            await send(message)

        try:
            await self.app(scope, receive, sent)
        finally:
            route = route_of(scope)
            spent = perf_counter() - began
            self.counts.requests.labels(scope["method"], route, str(status)).inc()
            if not route.endswith("/events"):
                self.counts.seconds.labels(route).observe(spent)
            told = {"request": request_id, "method": scope["method"], "route": route, "status": status, "ms": round(spent * 1000, 1)}  # fmt: skip
            LOG.log(logging.ERROR if status >= 500 else logging.INFO, "answered", extra=told)
