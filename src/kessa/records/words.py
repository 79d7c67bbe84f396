"""The audit in sentences: one for each act."""

from typing import Any

SENTENCES = {
    "programme.begun": "began the programme",
    "programme.changed": "changed the programme’s settings",
    "member.invited": "made an invitation",
    "member.invitation-withdrawn": "withdrew an invitation",
    "member.joined": "joined with an invitation",
    "member.role": "changed a role",
    "member.withdrawn": "withdrew a membership",
    "member.left": "left the programme",
    "member.reset": "made a code for a forgotten password",
    "member.pseudonymised": "took a former member’s name off the record",
    "water.made": "made a water",
    "water.changed": "described a water anew",
    "point.made": "made a point",
    "point.changed": "described a point anew",
    "method.taken-up": "took up a method document",
    "method.chosen": "chose how a method is done here",
    "lot.noted": "noted a lot",
    "sample.begun": "began a test at a point",
    "sample.safe": "looked and went on",
    "sample.not-taken": "did not sample",
    "sample.context": "noted the context",
    "sample.taken": "took the sample",
    "sample.test-changed": "changed which test a sample is for",
    "sample.cancelled": "cancelled a test before sampling",
    "sample.corrected": "corrected the sample or its context",
    "run.opened": "opened a run",
    "run.cancelled": "cancelled a test before anything was read",
    "run.handed-over": "handed a test over",
    "acts.kept": "sent acts",
    "acts.adopted": "kept from before the audit began",
    "result.evaluated": "the result was computed",
    "result.accept": "accepted the result",
    "result.return": "returned the result",
    "result.reject": "rejected the result",
    "result.answer": "answered the reviewer",
    "result.reopened": "the result went back to review",
    "device.allowed": "allowed a device to send",
    "device.revoked": "took a device’s permission to send",
    "audit.exported": "exported the audit",
}
SHOWN = ("why", "reason", "role", "count", "name", "decision", "was")


def sentence(act: str) -> str:
    """The act in words."""
    return SENTENCES.get(act, act)


def details(data: dict[str, Any]) -> str:
    """What of an entry's data is worth reading."""
    said = {key: data[key] for key in SHOWN if data.get(key) not in (None, "")}
    counted = f"{said.pop('count')} acts" if "count" in said else ""
    return " · ".join(str(part) for part in (counted, *said.values()) if part)
