"""Every sentence the player shows that does not depend on a reading."""

from collections.abc import Sequence
from typing import Any

from kessa_core.methods import Method
from kessa_core.methods.parts import Blank
from kessa_core.methods.stage import Stage
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.state import NOT_REACHED, RAN_OUT, UNREADABLE, UNTESTED, WITHOUT_FIGURE

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
    "empty": "Enter the reading first.",
    "number": "{raw} is not a number. Type the number exactly as shown.",
    "over": "Enter the number after the sign, such as > 1.2 {unit}.",
    "step": "This scale is read in steps of {step} {unit}. Look again.",
    "range": "{raw} is not on this scale; it goes from {low} to {high} {unit}.",
    "place": "This scale has no such value.",
    "unit": "This display does not show that unit.",
    "display": "This display does not show {raw}. Look again, with every digit.",
    "order": "{raw} is below the start reading, {start}. Read it again. If you refilled, start a "
    "new test.",
    "suspected": "This display does not show {raw}. Did it show {said}?",
}
TRIES = ("", ", attempt 2", ", attempt 3", ", another attempt")


def common_words(method: Method, waste: Sequence[tuple[str, str]] = ()) -> dict[str, Any]:
    """What holds for the whole run. *waste*: the programme's own words on routes of waste."""
    here = dict(waste)
    routes = dict.fromkeys(part.route for part in method.waste if here.get(part.route))
    return {
        "roles": ROLES,
        "tries": list(TRIES),
        "was": "corrected from",
        "before": "Before the first stage" if len(method.stages) > 1 else "Before the test",
        "preparing": "Preparation",
        "held": {
            "title": "Another device is doing this measurement",
            "lead": "Take over to continue here. The other device then stops.",
        },
        "awaiting": {
            "title": "Photographed, to be read later",
            "lead": "Its photograph waits with the others that are to be read. You can empty the "
            "vessel.",
        },
        "later": "Saved. The value appears after sending.",
        "rangeLater": "its range appears after sending",
        "done": "Done",
        "notReached": NOT_REACHED,
        "ranOut": RAN_OUT,
        "unreadable": UNREADABLE,
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
        "finer": "{raw} is between two steps of this scale ({step} {unit}). Is the reading right?",
        "unlikely": "The first reading was {first}, this one is {raw}. Check it and the refills. "
        "Is it right?",
        "below": "{title} reads {raw}, below {before} of {was}. Is the reading right?",
        "allUpTo": "Everything before: {title}",
        "nextStage": "Next: {title}",
        "wrong": WRONG,
        "counted": {"early": "too early", "over": "too late"},
    }


def stage_words(stage: Stage, reader: ReadingType) -> dict[str, Any]:
    """Titles, buttons and outcomes of one stage, in finished words."""
    r = stage.repeats
    made: dict[str, Any] = {
        "third": {"lead": f"{_apart(stage, reader)} Do a third measurement."},
        "notRepeatable": {
            "title": "Not repeatable",
            "lead": "The three measurements disagree, so there is no result. All three are saved.",
            "causes": list(r.causes),
        },
        "beyond": {
            "title": reader.beyond_title,
            "lead": stage.above.say,
            "button": _other_way(stage, reader),
            "dilute": "Dilute {by} times and continue",
            "keep": "Report as “more than”",
        },
        "ended": {
            "title": f"{stage.title}: done",
            "lead": "Saved. Continue with the next stage, or end the test here.",
        },
        "over": reader.above_words,
        "under": reader.below_words,
        **reader.count_words(),
        "then": {
            "method": "then the other portion",
            "longer-cell": "then the other cell",
            "dilute": "then dilute",
            "report": "then report “more than”",
        }[stage.above.then],
    }
    if stage.below:
        made["below"] = {
            "title": _below_title(reader),
            "lead": stage.below.say,
            "button": "Continue with the more precise kit",
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
        return "Continue with the other cell"
    return f"Continue with the {reader.other_way}"


def _below_title(reader: ReadingType) -> str:
    return f"Below {reader.main.say(reader.main.low)} {reader.main.unit}".rstrip()


def _blank(b: Blank, reader: ReadingType) -> dict[str, Any]:
    shown = reader.blank_bound(b.passes_at_most)
    return {
        "blankPer": f"passes at up to {shown}",
        "failed": {
            "title": f"The blank {reader.blank_verb} more than {shown}",
            "lead": "Something other than the sample changes the colour. Repeat the blank with "
            f"{b.water} until it passes.",
            "suspects": [{"what": s.what, "do": s.do} for s in b.suspects],
            "again": "Repeat blank",
        },
        "failedNote": f"blank over {b.passes_at_most} {reader.step_unit}",
        "passedNote": "passed; subtracted" if b.subtract else "passed; recorded, not subtracted",
    }
