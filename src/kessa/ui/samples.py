"""Sample data for the style page: every component in its states."""

from typing import Any

from kessa.ui.gauges import draw
from kessa_core.judging import judge, limit_set, most_serious_verdict
from kessa_core.methods import shipped
from kessa_core.quantities import Interval, Value

SENDING = (
    ("sent", "All sent"),
    ("keeping", "Saving"),
    ("waiting", "3 saved here, not sent yet"),
    ("offline", "3 saved here, no connection"),
    ("sign-in gone", "3 saved here; sign in again to send"),
    ("another person’s sign-in", "3 saved here for another person; sent when they sign in"),
    ("too often", "3 saved here; the server asks to wait"),
    ("broken", "This browser cannot save readings. Write them down."),
)


def samples() -> dict[str, Any]:
    """Gauges of every verdict, from the shipped limits."""
    method = shipped("chloride-drops-15ml")
    stage = method.stages[0]
    limits = limit_set("ccme-freshwater").of(method.quantity)
    values = [
        Value(method.quantity, 62, 0, Interval(41, 63)),
        Value(method.quantity, 120, 0, Interval(100, 124)),
        Value(method.quantity, 166, 0, Interval(138, 172)),
        Value(method.quantity, 199.2, 0, Interval(175, None), ">"),
    ]
    drawn = []
    for value in values:
        verdict = most_serious_verdict(judge(value, limit) for limit in limits)
        drawn.append(
            (value, verdict, draw(value, limits, verdict.sign, verdict.words, Interval(42, 59)))
        )
    return {"drawn": drawn, "stage": stage, "places": (), "sending": SENDING}
