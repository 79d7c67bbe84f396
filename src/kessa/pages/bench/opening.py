"""The words of a test's first step, so that the page shows them before its script has painted."""

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Opening:
    """What stands above the first step: where the test is, what to do, and how."""

    eyebrow: str = ""
    title: str = ""
    lead: str = ""


def opening_of(payload: dict[str, Any]) -> Opening:
    """The words of the first step of a test that has not begun, as the page's script says them;
    none where something was done already or is asked about the sample first."""
    run = payload["runs"][-1]
    sheet = payload["sheets"][run["method"]]
    if run["events"] or sheet.get("asks") or not sheet["before"]:
        return Opening()
    step = sheet["steps"][sheet["before"][0]]
    stage = f" · {sheet['stages'][0]['title']}" if len(sheet["stages"]) > 1 else ""
    eyebrow = f"{sheet['method']['short']}{stage} · {sheet['words']['before']}"
    title = f"{step['title']}, {step['times']} times" if step.get("times") else step["title"]
    where = f" · 1 / {len(sheet['before'])}"
    return Opening(eyebrow + where, title, step.get("lead") or "")
