"""A document of the first format (kessa-method/1, drop counts only) as one of today's.

Programmes keep such documents for ever, and results carry their fingerprints.
"""

from typing import Any

from kessa_core.methods.document import FORMAT, fingerprint

FIRST = "kessa-method/1"
_STEP: dict[str, Any] = {
    "lead": None,
    "caution": None,
    "picture": None,
    "only": None,
    "answers": [],
}
_ANSWER = {"flag": None, "cause": None}
_INFLUENCE = {"sd": None, "low": None, "high": None}
_FLOATS = ("portion_ml", "normality_eq_l", "drop_ml", "equivalent_weight_mg_meq")


def lifted(data: dict[str, Any]) -> dict[str, Any]:
    """Today's form of a first-format document; raises KeyError or TypeError where it is none."""
    titration, measures = data["titration"], data["measures"]
    beyond = {key: value for key, value in data["out_of_range"].items() if value is not None}
    repeats = {k: v for k, v in data["repeats"].items() if k != "agree_within_drops"}
    stage = {
        "id": "result",
        "title": data["title"],
        "measures": measures,
        "reading": {
            "by": "drop-count",
            **{key: value for key, value in titration.items() if key != "max_drops"},
            "most": titration["max_drops"],
        },
        "influences": data["influences"],
        "steps": data["steps"]["each"],
        "blank": data["blank"],
        "repeats": {**repeats, "agree": {"steps": data["repeats"]["agree_within_drops"]}},
        "above": beyond,
    }
    kept = ("id", "version", "title", "short", "kit", "hazards", "gear", "changes")
    return {
        "format": FORMAT,
        **{key: data[key] for key in kept if key in data},
        "sample": {"volume_ml": titration["portion_ml"]},
        "reagents": [
            {"name": titration["titrant"], "form": "drops", "amount": "1", "unit": "bottle",
             "lot": True}
        ],
        "before": data["steps"].get("before", []),
        "stages": [stage],
        "waste": [{"what": "all of it", "route": "heavy-metal", "say": data["waste"]}],
    }  # fmt: skip


def hash_of(data: dict[str, Any]) -> str:
    """The fingerprint that the first format gave this document, every default filled in."""
    full = dict(data)
    full["steps"] = {
        part: [_step(step) for step in data["steps"].get(part, [])] for part in ("before", "each")
    }
    full["titration"] = {
        key: float(value) if key in _FLOATS else value for key, value in data["titration"].items()
    }
    full["influences"] = [_INFLUENCE | _sizes(one) for one in data["influences"]]
    full["out_of_range"] = {"method": None} | data["out_of_range"]
    full["repeats"] = {"causes": []} | data["repeats"]
    for name in ("hazards", "gear"):
        full.setdefault(name, [])
    return fingerprint(full)


def _step(step: dict[str, Any]) -> dict[str, Any]:
    answers = [_ANSWER | answer for answer in step.get("answers", [])]
    return _STEP | step | {"answers": answers}


def _sizes(influence: dict[str, Any]) -> dict[str, Any]:
    return {
        key: float(value) if key in ("sd", "low", "high") and value is not None else value
        for key, value in influence.items()
    }
