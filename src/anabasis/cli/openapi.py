"""`anabasis openapi`."""

import json
from typing import Any, cast

NAME = "openapi"


def command() -> None:
    """Print the OpenAPI description of the HTTP interface, as web/src/api/openapi.json holds it."""
    from anabasis.server import create_app  # the other commands need no web framework

    app = create_app(cast(Any, None))
    print(json.dumps(app.openapi(), indent=1, ensure_ascii=False))
