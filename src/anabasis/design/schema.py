"""The JSON Schema of the document (JSON Schema 2020-12), generated from the models."""

from __future__ import annotations

import json

from anabasis.design.document import Design


def json_schema() -> str:
    """Return the schema as text, the same on every run."""
    schema = Design.model_json_schema(by_alias=True)
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Anabasis design document"
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
