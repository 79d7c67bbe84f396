"""What the history says of the newest result, in sentences."""

from datetime import date

from kessa_core.quantities import Value
from kessa_core.quantities.rounding import figure, span
from kessa_core.trends.change import Change, TooFew
from kessa_core.trends.news import News
from kessa_core.trends.trend import Trend
from kessa_core.trends.usual import against

TIMES = {10.0: "Ten times", 100.0: "A hundred times", 1000.0: "A thousand times"}
PARTS = {10.0: "A tenth of", 100.0: "A hundredth of", 1000.0: "A thousandth of"}


def told(news: News, value: Value, today: date) -> list[str]:
    """What is to be said of the newest result *value*, the most telling first: a decimal point that
    was lost, how long it has been outside its usual band, its rise, a year ago.

    today: its day, so that a date of the same year needs no year. Nothing where it is as it was.
    """
    said = [_outside(news, value, today), _moving(news), _year_ago(news, value)]
    return [sentence for sentence in said if sentence]


def trend_words(found: Trend | None, name: str, unit: str, decimals: int) -> str:
    """A trend as a sentence: by how much a year, or that none can be told; nothing without one."""
    if found is None:
        return ""
    over = f"over {found.years:.1f} years, season for season ({found.days} days with a result)"
    low, high = found.interval.low or 0.0, found.interval.high or 0.0
    if not found.is_clear:
        return f"{name} neither rises nor falls for sure {over}."
    way = "rises" if found.slope > 0 else "falls"
    by, least, most = (figure(abs(number), decimals + 1) for number in (found.slope, low, high))
    first, last = sorted((least, most), key=float)
    return f"{name} {way} by about {by} {unit} a year ({first}–{last}), {over}."


def day_words(day: date, today: date) -> str:
    """A day as "5 November", with its year where that is another one."""
    year = "" if day.year == today.year else f" {day.year}"
    return f"{day.day} {day:%B}{year}"


def _outside(news: News, value: Value, today: date) -> str:
    usual = news.usual
    if not usual or not news.side:
        return ""
    band = f"{usual.text(value.decimals)}{usual.mark}"
    if news.slip:
        times = max(news.slip, 1 / news.slip)
        many = TIMES if news.side == "above" else PARTS
        nearest = min(many, key=lambda one: abs(one - times))
        return f"Usual here {band}. {many[nearest]} what is usual: is the decimal point right?"
    if news.lasts and news.since:
        since = day_words(news.since.date(), today)
        how = "Above" if news.side == "above" else "Below"
        return f"{how} its usual {band} since {since}, {news.count} results in a row."
    if value.qualifier:
        return f"Usual here {band}."
    return f"Usual here {band}, so this is {against(value.number, usual)}."


def _moving(news: News) -> str:
    if not news.rises:
        return ""
    return f"It {'rose' if news.rises > 0 else 'fell'} {abs(news.rises)} times in a row."


def _year_ago(news: News, value: Value) -> str:
    year = news.year_ago
    if year is None or not year.differs:
        return ""
    how = "Higher" if year.now > year.before else "Lower"
    was, now = (figure(number, value.decimals) for number in (year.before, year.now))
    return f"{how} than in the same weeks a year ago: {was} then, {now} now."


def change_words(
    found: Change | TooFew, name: str, unit: str, decimals: int, event: str, pair: str = ""
) -> str:
    """A change in a sentence. name, unit: what was measured; event: what happened, as "the rain of
    3 May"; pair: the name of the comparison point, where the difference to it is meant."""
    what = f"{name} less that {pair}" if pair else name
    if isinstance(found, TooFew):
        return (
            f"Too few values to tell: {_days(found.before)} before {event} and "
            f"{_days(found.after)} after it. Three of each are needed."
        )
    ends = found.interval
    low, high = sorted((abs(ends.low or 0.0), abs(ends.high or 0.0)))
    carried = f"{_days(found.before)} before, {_days(found.after)} after"
    left_out = f"; {found.bounds} without a figure left out" if found.bounds else ""
    if not found.is_clear:
        between = (
            f"{_signed(ends.low, decimals)} and {_signed(ends.high, decimals)} {unit}".rstrip()
        )
        return (
            f"{what} did not clearly change with {event}: the difference lies between {between} "
            f"({carried}{left_out})."
        )
    how = "higher" if found.by > 0 else "lower"
    by = figure(abs(found.by), decimals)
    range_ = span(figure(low, decimals, "down"), figure(high, decimals, "up"))
    amount = f"{by} {unit}".rstrip()
    return (
        f"{what} was {amount} {how} ({range_}) after {event} than before it ({carried}{left_out})."
    )


def _days(count: int) -> str:
    return f"{count} {'day' if count == 1 else 'days'}"


def _signed(number: float | None, decimals: int) -> str:
    said = figure(abs(number or 0.0), decimals)
    return f"−{said}" if (number or 0.0) < 0 and float(said) else said
