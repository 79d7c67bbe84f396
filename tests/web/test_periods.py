"""The periods in which the same limits hold at a water: by what is attached, by the days on which a
limit of a set begins, and by part of the water."""

from datetime import UTC, datetime

import time_machine

from kessa.flows.judging import judge_waters
from kessa.places.services import attach_limits, change_point, make_point
from kessa.verdicts.rejudging import periods_of
from kessa.verdicts.services import current_verdicts
from tests.builders.rooms import RoomTest

DAY = datetime(2027, 11, 20, 9, 0, tzinfo=UTC)
LONG_AGO = datetime(2020, 1, 1, tzinfo=UTC)
TURN = datetime(2027, 11, 1, tzinfo=UTC)


class Periods(RoomTest):
    def lead(self) -> list[tuple[datetime | None, datetime | None, list[str | None]]]:
        """Each period of the rule for tap water with its action level for lead."""
        return [
            (one.begin, one.end, [x.max for x in one.held.limits if x.parameter == "lead"])
            for one in periods_of(self.room.water)
            if one.held and one.held.id == "us-epa-drinking"
        ]

    def test_from_the_day_on_which_another_limit_begins(self) -> None:
        """0.015 until the first of November 2027, and 0.010 from then on; not before or after the
        set itself was in force."""
        attach_limits(self.room.water, None, "us-epa-drinking", LONG_AGO)
        self.assertEqual(self.lead(), [(LONG_AGO, TURN, ["0.015"]), (TURN, None, ["0.010"])])
        attach_limits(self.room.water, None, "who-drinking", TURN)
        self.assertEqual(self.lead(), [(LONG_AGO, TURN, ["0.015"])])

    def test_parts_apart(self) -> None:
        """The boiler's feed and its water, each with its own; where nobody said, neither."""
        change_point(self.room.point, None, part="feed")
        make_point(self.room.water, None, name="boiler", place="drain", part="boiler")
        attach_limits(self.room.water, None, "shell-boiler", LONG_AGO)
        found = {
            one.part: [x.bounds_text for x in one.held.limits if x.parameter == "ph"]
            for one in periods_of(self.room.water)
            if one.held and one.held.id == "shell-boiler"
        }
        self.assertEqual(found, {"feed": ["at least 9.2"], "boiler": ["10.5–12.0"], "": []})

    @time_machine.travel(DAY, tick=False)
    def test_judged_again_by_its_part(self) -> None:
        """58 mg/L of chloride: a target of boiler water, and no limit in the feed."""
        change_point(self.room.point, None, part="boiler")
        result = self.room.finished((7, 8))
        attach_limits(self.room.water, None, "boiler-demo-high", LONG_AGO)
        judge_waters(self.room.programme, [self.room.water], self.room.people["manager"])
        told = [one.limit.limit_set for one in current_verdicts(result)]
        self.assertEqual(told, ["boiler-demo-high"])
        change_point(self.room.point, None, part="feed")
        judge_waters(self.room.programme, [self.room.water], self.room.people["manager"])
        self.assertEqual([one.limit for one in current_verdicts(result)], [None])
