"""Every sentence the player shows that does not depend on a reading."""

from collections.abc import Sequence
from typing import Any

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.readings.reader import Reader
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
COUNTED = {
    "drops": ("drop", "Add a drop", "It turned and stays", "No change: stop"),
    "tablets": ("tablet", "Add a tablet", "It turned for good", "No change: stop"),
}


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


def stage_words(stage: Stage, reader: Reader) -> dict[str, Any]:
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
            "title": _beyond_title(stage, reader),
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
    if reader.counts:
        made |= _counted(stage, reader)
    if stage.blank:
        made |= _blank(stage, reader)
    if stage.reference:
        made["reference"] = stage.reference.water
    if stage.standard:
        made["standardName"] = stage.standard.name
    return made


def _apart(stage: Stage, reader: Reader) -> str:
    rule = stage.repeats.agree
    if rule.steps is not None:
        return f"The first two differ by more than {rule.steps}."
    return f"The first two differ by more than {rule.relative_percent:g} %."


def _other_way(stage: Stage, reader: Reader) -> str:
    if stage.above.then == "longer-cell":
        return "Go on with the other cell"
    return f"Go on with the {'smaller portion' if reader.counts else 'other kit'}"


def _beyond_title(stage: Stage, reader: Reader) -> str:
    if reader.counts:
        return f"No change at {reader.scale('').high} {reader.counts}: stop"
    scale = reader.scale(reader.slots_here[-1])
    return f"Above {scale.say(scale.high)} {scale.unit}".rstrip()


def _below_title(reader: Reader) -> str:
    scale = reader.scale(reader.slots_here[-1] if reader.slots_here else "")
    return f"Below {scale.say(scale.low)} {scale.unit}".rstrip()


def _counted(stage: Stage, reader: Reader) -> dict[str, Any]:
    one, add, end, none = COUNTED[reader.counts]
    part: Any = stage.reading
    each = getattr(part, "factor", None) or part.per_tablet
    unit = stage.measures.unit
    per = f"{each} {unit} each, " if unit != "drops" else ""
    return {
        "one": one,
        "many": reader.counts,
        "add": add,
        "end": end,
        "noChange": "no change",
        "none": "no colour: absent",
        "noChangeStop": none,
        "perDrop": f"{per}{part.portion_ml:g} mL portion",
        "reading": {
            "title": "Did it stay?",
            "lead": f"Say how sure the last {one} was, then go on.",
        },
        "checkDrop": "Check drop added, not counted",
        "stopAt": part.most,
    }


def _blank(stage: Stage, reader: Reader) -> dict[str, Any]:
    b = stage.blank
    if b is None:
        return {}
    allowed = b.passes_at_most
    unit = reader.counts or "steps"
    if allowed == 1:
        unit = unit.removesuffix("s")
    if not reader.counts:
        scale = reader.scale(reader.slots_here[-1])
        shown = f"{scale.say(allowed)} {scale.unit}".strip()
    else:
        shown = f"{allowed} {unit}"
    return {
        "blankPer": f"passes at up to {shown}",
        "failed": {
            "title": f"The blank took more than {shown}"
            if reader.counts
            else f"The blank read more than {shown}",
            "lead": f"Something besides the sample turns the colour; first {b.water} has to pass.",
            "suspects": [{"what": s.what, "do": s.do} for s in b.suspects],
            "again": "Blank again",
        },
        "failedNote": f"blank over {allowed} {reader.counts or 'steps'}",
        "passedNote": "passed, taken off" if b.subtract else "passed, recorded, not taken off",
    }
