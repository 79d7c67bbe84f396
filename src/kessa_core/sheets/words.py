"""Every sentence the player shows that does not depend on a reading."""

from collections.abc import Sequence
from typing import Any

from kessa_core.methods import Method
from kessa_core.methods.parts import Blank
from kessa_core.methods.stage import Stage
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.state import NOT_REACHED, UNTESTED, WITHOUT_FIGURE

ROLES = {
    "blank": "Blank",
    "standard": "Standard",
    "reference": "Reference",
    "first": "First",
    "second": "Second",
    "third": "Third",
    "spike": "Spike",
}
WRONG = {
    "empty": "Nothing has been read yet.",
    "number": "{raw} is not a number. Type the number exactly as shown.",
    "over": "Type the figure after the mark, such as > 1.2 {unit}.",
    "step": "This scale is read in steps of {step} {unit}. Look again.",
    "range": "{raw} is not on this scale; it goes from {low} to {high} {unit}.",
    "place": "There is no such place on this scale.",
    "unit": "This display does not show that unit.",
    "display": "This display does not show {raw}. Look again, with every digit.",
    "order": "{raw} stands before the start, {start}. Read it again; a refill is a new test.",
    "suspected": "This display does not show {raw}. Did it show {said}?",
}
TRIES = ("", ", second try", ", third try", ", another try")


def common_words(method: Method, waste: Sequence[tuple[str, str]] = ()) -> dict[str, Any]:
    """What holds for the whole run. *waste*: the programme's own words on routes of waste."""
    here = dict(waste)
    routes = dict.fromkeys(part.route for part in method.waste if here.get(part.route))
    return {
        "roles": ROLES,
        "tries": list(TRIES),
        "was": "corrected from",
        "before": "Before the first stage" if len(method.stages) > 1 else "Before the test",
        "held": {
            "title": "Another device does this determination",
            "lead": "It holds the count. Take it over to go on here; the other device then stops.",
        },
        "later": "Kept. The value follows when it is sent.",
        "rangeLater": "its range follows when sent",
        "done": "Done",
        "notReached": NOT_REACHED,
        "untested": {how: WITHOUT_FIGURE[how].capitalize() for how in UNTESTED},
        "causes": ["spilled", "lost count", "wrong reagent", "too much added at once"],
        "waste": " ".join([method.waste_words, *(f"Here: {here[route]}" for route in routes)]),
        "fit": "Before reagents are used up",
        "diluted": "diluted {by} times",
        "undo": {"discarded": "Measurement discarded.", "ended": "Test ended."},
        "of": "of",
        "wear": "Wear {gear}.",
        "unset": "not set",
        "choose": "What you see",
        "itShowed": "Yes, it showed {said}",
        "asTyped": "Yes, it shows that",
        "finer": "{raw} lies between two steps of this scale ({step} {unit}). Is it read right?",
        "unlikely": "The first read {first}, this one {raw}. Check figure and refills. Right?",
        "below": "{title} reads {raw}, below {before} of {was}. Is it read right?",
        "allUpTo": "Everything before: {title}",
        "nextStage": "On to: {title}",
        "wrong": WRONG,
        "counted": {"early": "before its time", "over": "over its time"},
    }


def stage_words(stage: Stage, reader: ReadingType) -> dict[str, Any]:
    """Titles, buttons and outcomes of one stage, in finished words."""
    r = stage.repeats
    made: dict[str, Any] = {
        "third": {"lead": f"{_apart(stage, reader)} A third decides."},
        "notRepeatable": {
            "title": "Not repeatable",
            "lead": "No two of the three agree. All are kept; there is no result.",
            "causes": list(r.causes),
        },
        "beyond": {
            "title": reader.beyond_title,
            "lead": stage.above.say,
            "button": _other_way(stage, reader),
            "dilute": "Dilute {by} times and go on",
            "keep": "Keep the bound",
        },
        "ended": {
            "title": f"{stage.title}: done",
            "lead": "Kept. Go on with the next stage, or stop here: what is done stays.",
        },
        "over": reader.over_says,
        "under": reader.under_says,
        **reader.count_words(),
        "then": {
            "method": "then the other portion",
            "longer-cell": "then the other cell",
            "dilute": "then dilute",
            "report": "the bound is the result",
        }[stage.above.then],
    }
    if stage.below:
        made["below"] = {
            "title": _below_title(reader),
            "lead": stage.below.say,
            "button": "Go on with the finer kit",
        }
    if stage.blank:
        made |= _blank(stage.blank, reader)
    if stage.reference:
        made["reference"] = stage.reference.water
    if stage.standard:
        made["standardName"] = stage.standard.name
    return made


def _apart(stage: Stage, reader: ReadingType) -> str:
    rule = stage.repeats.agree
    if rule.steps is not None:
        return f"The first two differ by more than {rule.steps}."
    return f"The first two differ by more than {rule.relative_percent:g} %."


def _other_way(stage: Stage, reader: ReadingType) -> str:
    if stage.above.then == "longer-cell":
        return "Go on with the other cell"
    return f"Go on with the {reader.other_way}"


def _below_title(reader: ReadingType) -> str:
    return f"Below {reader.main.say(reader.main.low)} {reader.main.unit}".rstrip()


def _blank(b: Blank, reader: ReadingType) -> dict[str, Any]:
    shown = reader.blank_bound(b.passes_at_most)
    return {
        "blankPer": f"passes at up to {shown}",
        "failed": {
            "title": f"The blank {reader.blank_verb} more than {shown}",
            "lead": f"Something besides the sample turns the colour; first {b.water} has to pass.",
            "suspects": [{"what": s.what, "do": s.do} for s in b.suspects],
            "again": "Blank again",
        },
        "failedNote": f"blank over {b.passes_at_most} {reader.step_unit}",
        "passedNote": "passed, taken off" if b.subtract else "passed, recorded, not taken off",
    }
