"""The published JSON Schema of a limit set, generated from the model."""

import json
from typing import Any

from kessa_core.judging.limit_sets import LimitSet
from kessa_core.judging.limits import FOUND_FOR_A_SAMPLE


def schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) of a limit set."""
    made = LimitSet.model_json_schema()
    properties = made["$defs"]["Limit"]["properties"]
    for name in FOUND_FOR_A_SAMPLE:
        del properties[name]
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "kessa-limits/1"}
    return head | {key: value for key, value in made.items() if key != "title"}


def text() -> str:
    """The schema as it stands in docs/limits.schema.json."""
    return json.dumps(schema(), indent=2, ensure_ascii=False) + "\n"
