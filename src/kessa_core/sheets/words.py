"""Every sentence the player shows that does not depend on a reading."""

from typing import Any

from kessa_core.methods import Method

ROLES = {"blank": "Blank", "first": "First", "second": "Second", "third": "Third"}
TRIES = ("", ", second try", ", third try", ", another try")


def words(method: Method) -> dict[str, Any]:
    """Titles, buttons and outcomes in finished words."""
    t, b, r = method.titration, method.blank, method.repeats
    drops = "drop" if b.passes_at_most == 1 else "drops"
    return {
        "roles": ROLES,
        "tries": list(TRIES),
        "drop": "drop",
        "drops": "drops",
        "noChange": "no change",
        "was": "corrected from",
        "before": "Before the first drop",
        "perDrop": f"{t.factor} {method.measures.unit} each, {t.portion_ml:g} mL portion",
        "blankPer": f"passes at up to {b.passes_at_most} {drops}",
        "reading": {
            "title": "Did it stay?",
            "lead": "Say how sure the last drop was, then go on.",
        },
        "checkDrop": "Check drop added, not counted",
        "held": {
            "title": "Another device does this determination",
            "lead": "It holds the count. Take it over to go on here; the other device then stops.",
        },
        "failed": {
            "title": f"The blank took more than {b.passes_at_most} {drops}",
            "lead": f"Something besides the sample turns the colour; first {b.water} has to pass.",
            "suspects": [{"what": s.what, "do": s.do} for s in b.suspects],
            "again": "Blank again",
        },
        "failedNote": f"blank over {b.passes_at_most} {drops}",
        "passedNote": "passed, recorded, not taken off" if not b.subtract else "passed, taken off",
        "beyond": {
            "title": f"No change at {t.max_drops} drops: stop",
            "lead": method.out_of_range.say,
            "button": "Go on with the smaller portion",
        },
        "third": {
            "lead": f"The first two differ by more than {r.agree_within_drops}. A third decides.",
        },
        "later": "Kept. The value follows when it is sent.",
        "notRepeatable": {
            "title": "Not repeatable",
            "lead": "No two of the three agree. All are kept; there is no result.",
            "causes": list(r.causes),
        },
        "done": "Done",
        "stopped": "Stopped",
        "causes": ["spilled", "lost count", "wrong reagent", "too much added at once"],
        "waste": method.waste,
        "stopAt": t.max_drops,
        "then": "then the smaller portion"
        if method.out_of_range.then == "method"
        else "then dilute",
    }
