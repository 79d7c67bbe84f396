"""What is said of a result: its verdict, what would decide it, the usual, why it lies apart."""

from collections.abc import Sequence

from kessa_core.judging.context import PointContext
from kessa_core.judging.decide import sentence, suggest_next_steps
from kessa_core.judging.verdict import Verdict, most_serious_verdict, verdicts_on
from kessa_core.quantities import Value
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.trends.usual import against


def short_sentences(
    value: Value, verdict: Verdict, also: Sequence[str], setting: PointContext
) -> list[str]:
    """The sentences of a value that was multiplied back or subtracted."""
    said = [
        verdict.sentence, verdict.as_printed, also_said(value, also), usual_said(value, setting),
    ]  # fmt: skip
    return [line for line in said if line]


def result_sentences(
    reader: ReadingType,
    value: Value,
    verdict: Verdict,
    seen: Sequence[Reading],
    blanks: Sequence[Reading],
    setting: PointContext,
    apart: str | None = None,
) -> list[str]:
    """The sentences of a result: verdict, what would decide, the place's normal, why apart."""
    sentences = [line for line in (verdict.sentence, verdict.as_printed) if line]
    if other := also_said(value, reader.measures.also):
        sentences.append(other)
    if verdict.sign == "close" and verdict.limit and not value.qualifier:
        choices = suggest_next_steps(reader, value, verdict.limit, seen, blanks)
        sentences.append(sentence(choices))
    if normal := usual_said(value, setting):
        sentences.append(normal)
    if why := reader.explain_offset(value, blanks) if apart is None else apart:
        sentences.append(why)
    return sentences


def usual_said(value: Value, setting: PointContext) -> str:
    """How the value stands to what is usual here; nothing for a bound or without a normal."""
    if not setting.usual or value.qualifier:
        return ""
    band = f"{setting.usual.text(value.decimals)}{setting.usual.mark}"
    return f"Usual here {band}: {against(value.number, setting.usual)}."


def also_said(value: Value, bases: Sequence[str]) -> str:
    """The same value in the other bases that the method says it in; nothing where there is none."""
    said = [value.converted(basis=basis).text for basis in bases]
    return f"The same as {', or '.join(said)}." if said and not value.said else ""


def verdict_of(value: Value, setting: PointContext) -> Verdict:
    """The verdict that leads; where no limit can be applied, why."""
    return most_serious_verdict(verdicts_on(value, setting.limits or setting.others))
