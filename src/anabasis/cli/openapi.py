"""`anabasis openapi`."""

import json

NAME = "openapi"


def command() -> None:
    """Print the OpenAPI description of the HTTP interface, as web/src/api/openapi.json holds it."""
    from anabasis.server import description  # the other commands need no web framework

    print(json.dumps(description(), indent=1, ensure_ascii=False))
