"""The published JSON Schema of the method document, generated from the model."""

import json
from typing import Any

from kessa_core.methods.document import FORMAT, Method


def schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) of kessa-method/2."""
    made = Method.model_json_schema()
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": FORMAT}
    return head | {key: value for key, value in made.items() if key != "title"}


def text() -> str:
    """The schema as it stands in docs/method.schema.json."""
    return json.dumps(schema(), indent=2, ensure_ascii=False) + "\n"
