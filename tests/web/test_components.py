"""The design system's components: what they draw, and what they say to those who do not see it."""

import re
import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from itertools import pairwise

from django.template import Context, Template
from django.template.loader import render_to_string

from kessa.pages.points import chart
from kessa.pages.points.chart_frame import FRAMES
from kessa.pages.points.events import ChartEvent
from kessa.pages.points.spark import spark
from kessa.results.history import Past
from kessa.ui.gauges import draw
from kessa.ui.templatetags.kessa_ui import in_a_sentence
from kessa_core.judging import limit_set
from kessa_core.methods import shipped
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.trends.usual import Normal, Usual

LIMITS = limit_set("ccme-freshwater").limits[:2]
QUANTITY = shipped("chloride-drops-15ml").quantity
START = datetime(2025, 6, 3, tzinfo=UTC)


def rendered(tag: str, **context: object) -> str:
    return Template("{% load kessa_ui %}" + tag).render(Context(context))


def value(number: float, low: float, high: float | None, qualifier: str = "") -> Value:
    return Value(QUANTITY, number, 0, Interval(low, high), qualifier)


class Names(unittest.TestCase):
    def test_in_a_sentence(self) -> None:
        for name, said in (("Chloride", "chloride"), ("pH", "pH"), ("E. coli", "E. coli")):
            self.assertEqual(in_a_sentence(name), said)


class Gauge(unittest.TestCase):
    def test_positions_are_shares_of_the_scale(self) -> None:
        """60 on a scale to 192: the mark at 31.2 %, the limit at 62.5 %."""
        drawn = draw(value(60, 45, 63), LIMITS, "within", "within", Interval(40, 58))
        html = rendered("{% gauge g %}", g=drawn)
        self.assertIn('<svg x="31.2%"', html)
        self.assertIn('x1="62.5%"', html)
        self.assertIn('class="usual"', html)

    def test_its_words_for_those_who_do_not_see_it(self) -> None:
        """Figure, range, verdict and limits stand in the label."""
        html = rendered("{% gauge g %}", g=draw(value(60, 45, 63), LIMITS, "within", "within"))
        label = re.search('aria-label="([^"]+)"', html).group(1)
        self.assertEqual(
            label, "60 mg/L as Cl, 45–63; within; limits long-term 120, short-term 640"
        )

    def test_each_sign_has_its_own_shape(self) -> None:
        """Circle, half circle, diamond, bar; an arrow off the scale: never by colour alone."""
        shapes = {}
        for sign in ("within", "close", "beyond", "none"):
            html = rendered("{% gauge g %}", g=draw(value(60, 45, 63), LIMITS, sign, sign))
            shapes[sign] = re.search(r'overflow="visible">(.*?)</svg>', html).group(1)
        off = rendered("{% gauge g %}", g=draw(value(2000, 1900, None, ">"), LIMITS, "beyond", ""))
        shapes["off"] = re.search(r'overflow="visible">(.*?)</svg>', off).group(1)
        self.assertEqual(len(set(shapes.values())), 5)

    def test_without_a_value_there_is_no_mark(self) -> None:
        """Ticks alone."""
        html = rendered("{% gauge g %}", g=draw(None, LIMITS, "none", "not tested"))
        self.assertNotIn("mark", html)
        self.assertIn("no reading; not tested", html)


class Sign(unittest.TestCase):
    def test_shape_colour_and_word(self) -> None:
        """The shape is hidden from screen readers, the word is not."""
        html = rendered("{% sign 'close' %}")
        self.assertIn('<span aria-hidden="true">◐</span> too close to call', html)
        self.assertIn("○", rendered("{% sign 'none' 'not tested' %}"))


class Chart(unittest.TestCase):
    def seen(self, count: int = 20) -> list[Past]:
        return [
            Past(START + timedelta(days=14 * n), 40.0 + n, 30.0 + n, 42.0 + n, "within")
            for n in range(count)
        ]

    def drawn(self, frame: str = "wide", count: int = 20) -> chart.Chart:
        normal = Normal(Usual(9, 44.0, Interval(40.4, 47.6)))
        more = chart.Drawn(LIMITS, normal, pair=self.seen(count), pair_name="up")
        return chart.draw(self.seen(count), more, FRAMES[frame])

    def test_time_runs_from_edge_to_edge_and_up_is_more(self) -> None:
        """The first at the left, the last at the right; larger numbers lie higher."""
        for frame in FRAMES:
            made = self.drawn(frame)
            xs, ys = [dot.x for dot in made.dots], [dot.y for dot in made.dots]
            self.assertAlmostEqual(xs[0], made.frame.left)
            self.assertAlmostEqual(xs[-1], made.frame.end)
            self.assertEqual(ys, sorted(ys, reverse=True))
            self.assertTrue(all(dot.y_high < dot.y < dot.y_low for dot in made.dots))

    def test_only_a_near_limit_is_drawn(self) -> None:
        """120 is in sight of 60; 640 would press the results flat."""
        made = self.drawn()
        self.assertEqual(len(made.limits), 1)
        self.assertIn("long-term 120", [label.text for label in made.right])

    def test_figures_as_the_results_print_them(self) -> None:
        """A bound is rounded outwards, a range too; of a bound there is no range."""
        for number, low, high, qualifier, text, range_text in (
            (0.094, 0.0, 0.094, "<", "< 0.10", ""),
            (5.06, 5.06, 9.0, ">", "> 5.06", ""),
            (0.183, 0.121, 0.244, "", "0.18", "0.12–0.25"),
        ):
            one = Past(START, number, low, high, "none", qualifier)
            self.assertEqual((one.text(2), one.range_text(2)), (text, range_text))

    def test_a_long_name_of_a_limit_is_shortened(self) -> None:
        """By whole words, never its figure."""
        seen = [replace(one, number=6.0, low=5.0, high=8.0) for one in self.seen()]
        band = LIMITS[0].model_copy(
            update={"name": "guideline range", "min": Decimal("6.5"), "max": Decimal("9.0")}
        )
        made = chart.draw(seen, chart.Drawn([band], decimals=1), FRAMES["wide"])
        texts = [label.text for label in made.right]
        self.assertIn("guideline 6.5", texts)
        self.assertIn("guideline 9.0", texts)

    def test_labels_at_the_right_never_cover_each_other(self) -> None:
        """Each keeps its distance from the one above."""
        at = [label.at for label in self.drawn().right]
        self.assertTrue(all(b - a >= chart.LABEL_GAP for a, b in pairwise(at)))

    def test_months_stand_inside(self) -> None:
        """Quarters on the wide one, half years on the phone."""
        wide, phone = self.drawn("wide", 30), self.drawn("phone", 30)
        self.assertGreater(len(wide.months), len(phone.months))
        self.assertTrue(all(wide.frame.left <= m.at <= wide.frame.end for m in wide.months))

    def test_events_stand_under_the_months(self) -> None:
        """In a row of their own; two of one week share a mark; what lies outside is not drawn."""
        days = ((0, "rain"), (100, "new lot"), (101, "thaw"), (400, "snow"), (-1, "rain"))
        events = [ChartEvent(START + timedelta(days=day), kind, kind) for day, kind in sorted(days)]
        frame = FRAMES["wide"]
        made = chart.draw(self.seen(), chart.Drawn(LIMITS, events=events), frame)
        self.assertEqual([mark.kind for mark in made.events], ["rain", "new lot"])
        self.assertRegex(made.events[1].words, "^[^;]+: new lot; [^;]+: thaw$")
        self.assertEqual([mark.kind for mark in made.legend], ["rain", "new lot"])
        self.assertGreater(made.frame.events_y, made.frame.months_y)
        self.assertLess(made.frame.events_y, made.frame.height)
        self.assertEqual(made.frame.floor, frame.floor)
        html = render_to_string("points/chart.html", {"chart": made, "name": "Chloride"})
        self.assertIn("<title>", html)

    def test_without_events_there_is_no_row(self) -> None:
        """The drawing is as high as its frame, without a legend."""
        made = self.drawn()
        self.assertEqual((made.frame, made.legend), (FRAMES["wide"], []))

    def test_one_result_makes_no_chart(self) -> None:
        """A line needs two points."""
        self.assertIsNone(chart.draw(self.seen(1), chart.Drawn(LIMITS), FRAMES["wide"]))

    def test_bounds_are_open_marks(self) -> None:
        """ "< 40" reaches down to the axis, "> 40" up; neither is a filled mark."""
        seen = self.seen(3)
        seen += [
            Past(START + timedelta(days=50), 40.0, 0.0, 40.0, "within", "<"),
            Past(START + timedelta(days=60), 40.0, 40.0, 40.0, "none", ">"),
        ]
        made = chart.draw(seen, chart.Drawn(LIMITS), FRAMES["wide"])
        self.assertEqual(made.without_a_figure, 2)
        below, above = made.dots[-2:]
        self.assertAlmostEqual(below.y_low, made.frame.floor)
        self.assertEqual(above.y_high, 0.0)
        within = next(group for group in made.marks if group.sign == "within")
        self.assertEqual(within.marks.count("M"), 3)
        self.assertEqual(within.bounds.count("M"), 1)
        self.assertIn("> 40", [label.text for label in made.right])
        html = render_to_string("points/chart.html", {"chart": made, "name": "Chloride"})
        self.assertIn("only known to be below or above", html)

    def test_an_axis_starts_at_nought_or_near_its_results(self) -> None:
        """20 to 60 from nought; pH about 8 not, with both ends of its limit; below nought too."""
        self.assertEqual(self.drawn().levels[0].text, "0")
        ph = [Past(START + timedelta(days=n), 8.0, 7.8, 8.2, "within") for n in range(9)]
        band = limit_set("eu-drinking").of(Quantity("ph", "total", "", "pH"))
        made = chart.draw(ph, chart.Drawn(band, decimals=1), FRAMES["wide"])
        self.assertNotEqual(made.levels[0].text, "0")
        self.assertGreaterEqual(len(made.limits), 1)
        cold = [
            Past(START + timedelta(days=n), -3.0 + n, -3.2 + n, -2.8 + n, "none") for n in range(5)
        ]
        frost = chart.draw(cold, chart.Drawn(), FRAMES["wide"])
        self.assertIn("−2", [level.text for level in frost.levels])
        self.assertTrue(all(dot.y <= frost.frame.floor for dot in frost.dots))

    def test_the_usual_of_the_season_is_a_wave(self) -> None:
        """Its upper edge moves with the year; one for all year is a box."""
        year = Normal(
            Usual(60, 9.0, Interval(2.0, 16.0)),
            (9.0, -5.0, 0.0),
            Usual(60, 0.0, Interval(-1.0, 1.0)),
        )
        seen = [Past(START + timedelta(days=14 * n), 9.0, 8.8, 9.2, "none") for n in range(40)]
        wave = chart.draw(seen, chart.Drawn(usual=year), FRAMES["wide"])
        self.assertEqual(wave.band.count("L"), 2 * 41 - 1)
        box = chart.draw(seen, chart.Drawn(usual=Normal(year.still)), FRAMES["wide"])
        self.assertEqual(box.band.count("L"), 3)

    def test_when_it_left_its_usual(self) -> None:
        """A line on that day; none where that was before the first result."""
        since = START + timedelta(days=140)
        made = chart.draw(self.seen(), chart.Drawn(since=since), FRAMES["wide"])
        self.assertIn("left its usual", made.left_usual.text)
        self.assertAlmostEqual(made.left_usual.at, made.dots[10].x)
        early = chart.Drawn(since=START - timedelta(days=1))
        self.assertIsNone(chart.draw(self.seen(), early, FRAMES["wide"]).left_usual)


class Spark(unittest.TestCase):
    def test_a_line_through_the_newest(self) -> None:
        """The last one is marked; two are no line; equal ones lie flat."""
        made = spark([1.0, 3.0, 2.0])
        self.assertEqual(made.points, "3.0,21.0 46.0,3.0 89.0,12.0")
        self.assertEqual((made.x, made.y), (89.0, 12.0))
        self.assertIsNone(spark([1.0, 2.0]))
        self.assertEqual(len({point.split(",")[1] for point in spark([5.0] * 4).points.split()}), 1)
