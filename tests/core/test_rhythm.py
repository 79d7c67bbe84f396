"""When a set of tests is due."""

from datetime import date, timedelta
from itertools import islice, takewhile
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.preparing.rhythm import (
    BadRhythm,
    MonthlyDay,
    MonthlyWeekday,
    OnOccasion,
    Rhythm,
    Weekly,
    dates,
    read_rhythm,
    standing_of,
)

SATURDAY = 5
LAST_SATURDAY = MonthlyWeekday(weekday=SATURDAY, which=-1)


def first(rhythm: Rhythm, begins: date, count: int = 3) -> list[str]:
    return [day.isoformat() for day in islice(dates(rhythm, begins), count)]


class DatesTest(TestCase):
    def test_days_on_which_a_set_is_due(self) -> None:
        cases = (
            (LAST_SATURDAY, date(2026, 11, 1), ["2026-11-28", "2026-12-26", "2027-01-30"]),
            (LAST_SATURDAY, date(2026, 11, 28), ["2026-11-28", "2026-12-26", "2027-01-30"]),
            (LAST_SATURDAY, date(2026, 11, 29), ["2026-12-26", "2027-01-30", "2027-02-27"]),
            (MonthlyWeekday(weekday=0, which=1, every=3), date(2026, 1, 1),
             ["2026-01-05", "2026-04-06", "2026-07-06"]),
            (Weekly(weekday=0), date(2026, 12, 29), ["2027-01-04", "2027-01-11", "2027-01-18"]),
            (Weekly(weekday=2, every=2), date(2026, 11, 4),
             ["2026-11-04", "2026-11-18", "2026-12-02"]),
            (MonthlyDay(day=31), date(2027, 1, 1), ["2027-01-31", "2027-02-28", "2027-03-31"]),
            (MonthlyDay(day=30), date(2028, 2, 1), ["2028-02-29", "2028-03-30", "2028-04-30"]),
            (MonthlyDay(day=28), date(2027, 2, 28), ["2027-02-28", "2027-03-28", "2027-04-28"]),
            (MonthlyDay(day=1, every=12), date(2026, 11, 2),
             ["2027-11-01", "2028-11-01", "2029-11-01"]),
            (OnOccasion(occasion="thaw"), date(2026, 1, 1), []),
        )  # fmt: skip
        for rhythm, begins, expected in cases:
            with self.subTest(rhythm=rhythm.words, begins=begins):
                self.assertEqual(first(rhythm, begins), expected)

    def test_words(self) -> None:
        cases = {
            "every Monday": Weekly(weekday=0),
            "every 2 weeks on Sunday": Weekly(weekday=6, every=2),
            "the last Saturday of every month": LAST_SATURDAY,
            "the first Monday of every 3 months": MonthlyWeekday(weekday=0, which=1, every=3),
            "day 15 of every month": MonthlyDay(day=15),
            "the last day of every month": MonthlyDay(day=31),
            "after heavy rain": OnOccasion(occasion="rain"),
            "at each service": OnOccasion(occasion="service"),
        }
        for words, rhythm in cases.items():
            self.assertEqual(rhythm.words, words)

    @given(st.dates(date(2020, 1, 1), date(2040, 1, 1)), st.integers(1, 31))
    def test_a_day_of_the_month_comes_once_in_every_month(self, begins: date, day: int) -> None:
        found = list(islice(dates(MonthlyDay(day=day), begins), 14))
        months = [one.year * 12 + one.month for one in found]
        self.assertEqual(months, list(range(months[0], months[0] + 14)))
        for one in found:
            last_of_month = (one + timedelta(days=1)).month != one.month
            self.assertTrue(one.day == day or (last_of_month and one.day < day))

    def test_what_is_no_rhythm_is_refused(self) -> None:
        for wrong in ({}, {"kind": "weekly"}, {"kind": "weekly", "weekday": 7},
                      {"kind": "monthly-day", "day": 32}, {"kind": "tide"}):  # fmt: skip
            with self.subTest(wrong=wrong), self.assertRaises(BadRhythm):
                read_rhythm(wrong)

    def test_read_as_it_was_written(self) -> None:
        for rhythm in (LAST_SATURDAY, MonthlyDay(day=31, every=2), Weekly(weekday=6)):
            self.assertEqual(read_rhythm(rhythm.model_dump()), rhythm)


class StandingTest(TestCase):
    BEGINS = date(2026, 9, 1)
    SEPTEMBER, OCTOBER, NOVEMBER = date(2026, 9, 26), date(2026, 10, 31), date(2026, 11, 28)

    def test_where_a_set_stands(self) -> None:
        both = {self.SEPTEMBER, self.OCTOBER}
        cases = (
            # today, done, due, following, missed
            (date(2026, 8, 1), set(), None, self.SEPTEMBER, ()),
            (date(2026, 9, 25), set(), None, self.SEPTEMBER, ()),
            (self.SEPTEMBER, set(), self.SEPTEMBER, self.OCTOBER, ()),
            (self.SEPTEMBER, {self.SEPTEMBER}, None, self.OCTOBER, ()),
            (date(2026, 10, 30), set(), self.SEPTEMBER, self.OCTOBER, ()),
            (self.OCTOBER, set(), self.OCTOBER, self.NOVEMBER, (self.SEPTEMBER,)),
            (self.NOVEMBER, both, self.NOVEMBER, date(2026, 12, 26), ()),
            (self.NOVEMBER, {self.OCTOBER}, self.NOVEMBER, date(2026, 12, 26), (self.SEPTEMBER,)),
        )
        for today, done, due, following, missed in cases:
            with self.subTest(today=today, done=done):
                found = standing_of(LAST_SATURDAY, self.BEGINS, done, today)
                self.assertEqual((found.due, found.following, found.missed),
                                 (due, following, missed))  # fmt: skip

    def test_every_second_week_counts_from_the_beginning(self) -> None:
        fortnightly = Weekly(weekday=2, every=2)
        found = standing_of(fortnightly, date(2026, 11, 4), (), date(2026, 11, 12))
        self.assertEqual((found.due, found.following), (date(2026, 11, 4), date(2026, 11, 18)))

    def test_an_occasion_is_never_due_by_the_calendar(self) -> None:
        found = standing_of(OnOccasion(occasion="rain"), self.BEGINS, (), self.NOVEMBER)
        self.assertEqual((found.due, found.following, found.missed), (None, None, ()))

    @given(
        st.integers(0, 6),
        st.sampled_from([1, 2, 3, 4, -1]),
        st.dates(date(2026, 1, 1), date(2030, 1, 1)),
    )
    def test_due_is_the_last_day_that_has_come(self, weekday: int, which: int, today: date) -> None:
        rhythm = MonthlyWeekday.model_validate({"weekday": weekday, "which": which})
        found = standing_of(rhythm, date(2026, 1, 1), (), today)
        come = list(takewhile(lambda day: day <= today, dates(rhythm, date(2026, 1, 1))))
        self.assertEqual(found.due, come[-1] if come else None)
        self.assertEqual(len(found.missed), max(len(come) - 1, 0))
        assert found.following is not None
        self.assertGreater(found.following, today)
