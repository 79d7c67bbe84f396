"""Worked outcomes on the bench: clocks, questions, ends of scales, stages, a practised hand."""

import re
import time

from playwright.sync_api import expect

from kessa.flows.evaluating import state_of
from kessa.flows.receiving import keep
from kessa.pages.bench.digest import digest
from kessa.results.models import Result
from kessa.runs.models import Event, Run
from kessa_core.methods import shipped
from tests.browser.base import PHONE, BenchDriver, BrowserTest, axe, overflow
from tests.builders.runs import Taps


def flags_of(result: Result) -> list[str]:
    """What a reviewer is told, but for the device's clock, which these tests set forward."""
    return [flag for flag in result.evaluation.flags if "device’s clock" not in flag]


class Worked(BrowserTest):
    def begin(self, method: str) -> BenchDriver:
        page = self.sign_in(self.context())
        page.clock.install()
        return self.bench(page, method)

    def figures(self, bench: BenchDriver) -> list[str]:
        return bench.page.locator(".r-figure").all_inner_texts()

    def test_no_colour_after_the_first_tablet(self) -> None:
        """Absent, with its bound, not 7.5; and nothing more is asked."""
        bench = self.begin("hardness-tablets").go("2")
        expect(bench.page.locator(".r-figure")).to_have_text("absent, < 15")
        expect(bench.page.locator(".r-working")).to_contain_text("no colour after the first tablet")
        bench.all_sent()
        self.assertEqual(Result.objects.get(run_id=bench.run).current.qualifier, "<")

    def test_gear_stands_at_the_step_that_needs_it(self) -> None:
        """With the caution, and not before."""
        bench = self.begin("nitrate-comparator").press("1", "n")
        caution = bench.page.locator("#caution")
        expect(caution).to_be_hidden()
        bench.press("n")
        expect(caution).to_have_text(
            "The powder holds cadmium. Nothing into the stream. Wear gloves, goggles."
        )

    def test_above_the_last_shade_is_diluted_and_multiplied_back(self) -> None:
        """> 6.0 as N; ten times diluted and read between 2 and 3: 25 as N."""
        bench = self.begin("nitrate-comparator").go().type("Darker than the last").take()
        expect(bench.title).to_have_text("Above 6.0 mg/L")
        expect(bench.page.locator(".r-figure")).to_have_text("> 6.0")
        expect(bench.page.locator(".r-told")).to_contain_text("> 26 mg/L as NO₃")
        self.assertEqual(axe(bench.page), [])
        bench.click("Dilute 10 times and continue")
        expect(bench.page.locator("#eyebrow")).to_contain_text("diluted 10 times")
        bench.go().type("between 2.0 and 3.0").take().all_sent()
        expect(bench.page.locator(".r-figure")).to_have_text("25")
        expect(bench.page.locator(".r-working")).to_contain_text("× 10 for the dilution")
        result = Result.objects.get(run_id=bench.run)
        self.assertEqual(result.current.value.text, "25 mg/L as N")
        self.assertEqual(bench.digest(), [digest(state_of(result.run))])

    def test_paler_than_the_first_shade_goes_on_with_the_finer_kit(self) -> None:
        """< 0.5 stands; the absorbance kit takes the same sample further."""
        bench = self.begin("iron-cells").go().type("Paler than the first").take()
        page = bench.page
        expect(bench.title).to_have_text("Below 0.5 mg/L")
        expect(page.locator("#lead")).to_contain_text("Use the absorbance kit.")
        expect(page.locator(".r-figure")).to_have_text("< 0.5")
        self.assertEqual(axe(page), [])
        bench.click("Continue with the more precise kit").all_sent()
        expect(page.locator("#eyebrow")).to_contain_text("Iron, absorbance")
        following = Run.objects.get(continues_id=bench.run)
        self.assertEqual(following.version.method_id, "iron-photometer")
        self.assertEqual(Result.objects.get(run_id=bench.run).current.qualifier, "<")

    def test_what_speaks_against_the_sample_is_asked_first(self) -> None:
        """Put right, taken back, tested all the same: the result says so. Or not applicable."""
        self.room.water.traits = ["turbid", "salt"]
        self.room.water.save()
        bench = self.begin("nitrate-comparator")
        expect(bench.title).to_have_text("This water is turbid.")
        expect(bench.page.locator("#lead")).to_have_text("Filter it first, and write filtered.")
        self.assertEqual((axe(bench.page), overflow(bench.page)), ([], 0))
        bench.press("n")
        expect(bench.title).to_have_text("This water is salt.")
        expect(bench.page.get_by_role("button", name="Done, continue")).to_be_hidden()
        bench.press("Backspace")
        expect(bench.title).to_have_text("This water is turbid.")
        bench.press("n").click("Test anyway and flag the result")
        bench.go().type("2.0").take().all_sent()
        expect(bench.flagged("This water is salt.")).to_be_visible()
        result = Result.objects.get(run_id=bench.run)
        self.assertEqual(flags_of(result), ["Tested all the same: This water is salt."])
        self.assertEqual(bench.digest(), [digest(state_of(result.run))])
        left = self.begin("nitrate-comparator").press("n")
        left.click("End test (not applicable").all_sent()
        expect(left.title).to_have_text("Not applicable")
        ended = Result.objects.get(run_id=left.run)
        self.assertEqual(
            (ended.current.finish, ended.current.cause), ("not-applicable", "This water is salt.")
        )
        self.assertEqual(left.digest(), [digest(state_of(ended.run))])
        left.page.goto(self.base + self.room.url("log/"))
        left.page.get_by_label("Verdict").select_option("○ not applicable")
        expect(left.page.get_by_role("status")).to_contain_text("1 result")
        expect(left.page.locator("#results tbody tr").last).to_contain_text("This water is salt.")

    def test_a_test_is_ended_without_a_result_for_a_reason(self) -> None:
        """In one's own words; the words do not stay for the next time."""
        bench = self.begin("nitrate-comparator").press("1")
        bench.page.get_by_text("Something went wrong").click()
        why = bench.page.get_by_label("Reason to end this test without a result")
        why.fill("brown with peat")
        bench.click("End test (not applicable").all_sent()
        expect(bench.title).to_have_text("Not applicable")
        expect(bench.page.locator("#lead")).to_have_text("brown with peat")
        expect(why).to_be_hidden()
        bench.press("Backspace")
        expect(why).to_have_value("")
        bench.click("End test (not tested)").all_sent()
        ended = Result.objects.get(run_id=bench.run).current
        self.assertEqual((ended.finish, ended.cause), ("not-tested", "stopped by hand"))

    def test_a_later_stage_that_is_not_applicable_says_why(self) -> None:
        """Beside what was done, which stands."""
        bench = self.begin("chlorine-photometer").go().type("0.34").take()
        bench.click("Next").page.get_by_text("Something went wrong").click()
        bench.page.get_by_label("Reason to end").fill("too turbid by now")
        bench.click("End test (not applicable").all_sent()
        blocks = bench.page.locator(".outcome")
        expect(blocks).to_have_count(2)
        expect(blocks.nth(0)).to_contain_text("0.34")
        expect(blocks.nth(1)).to_contain_text("Not applicable: too turbid by now")

    def test_a_blank_read_from_a_burette_is_taken_off(self) -> None:
        """4.20 mL, less a blank of 0.10 mL: 82.0 mg/L; the blank stands on the tape."""
        bench = self.begin("chloride-burette")
        for start, end in (("0.00", "0.10"), ("0.20", "4.40"), ("4.40", "8.60")):
            bench.go().type(start).take().type(end).take()
        bench.all_sent()
        expect(bench.page.locator("#tape")).to_contain_text("passed; subtracted")
        expect(bench.page.locator(".r-figure")).to_have_text("82.0")
        expect(bench.page.locator(".r-working")).to_contain_text("less blank 0.10 mL")

    def test_a_unit_slip_is_asked_about_before_it_is_taken(self) -> None:
        """12.4 on the µS scale of a display that changes to mS: nothing is taken until answered."""
        bench = self.begin("conductivity-meter").go().type("12.4 µS/cm").take()
        asked = bench.page.get_by_role("alertdialog")
        expect(asked).to_contain_text("does not show 12.4 µS/cm. Did it show 12.40 mS/cm?")
        self.assertFalse(Event.objects.filter(run_id=bench.run, act="read").exists())
        bench.click("Yes, it showed 12.40 mS/cm")
        expect(bench.page.get_by_label("Unit shown")).to_have_value("mS/cm")
        bench.take().all_sent()
        expect(bench.page.locator(".r-figure")).to_have_text("12400")

    def test_a_reading_far_from_what_is_usual_is_asked_about(self) -> None:
        """Ten times the place's normal: taken as typed, or put right; what was typed stays."""
        for days in range(1, 9):
            run = self.room.new_run(days_ago=days, method="conductivity-meter")
            self.play(run, "320")
        bench = self.begin("conductivity-meter").go().type("32 µS/cm").take()
        expect(bench.page.get_by_role("alertdialog")).to_contain_text("far from what is usual here")
        expect(bench.page.get_by_label("Reading", exact=True)).to_have_value("32")
        bench.click("Yes, it shows that").all_sent()
        expect(bench.page.locator(".r-figure")).to_have_text("32")

    def play(self, run: Run, raw: str) -> None:
        taps = Taps(shipped("conductivity-meter"), run=str(run.pk)).before().read(raw)
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])

    def test_a_standard_outside_its_window_goes_with_what_follows(self) -> None:
        """1.50 found 1.34: 89.3 %, said at once on the tape, flagged on the result."""
        bench = self.begin("phosphate-photometer").go().type("1.34").take()
        said = "standard 1.50 found 1.34: 89.3 %, outside 90–110 %"
        expect(bench.page.locator("#tape li").first).to_contain_text(said)
        bench.go().type("1.20").take().all_sent()
        expect(bench.flagged(said)).to_be_visible()
        self.assertIn(said, flags_of(Result.objects.get(run_id=bench.run)))

    def test_stages_with_results_of_their_own(self) -> None:
        """Free 0.34, total 0.31: both stand, combined is not detected."""
        bench = self.begin("chlorine-photometer").go().type("0.34").take()
        expect(bench.title).to_have_text("Free chlorine: done")
        expect(
            bench.page.get_by_role("button", name="End test, save finished stages")
        ).to_be_visible()
        bench.click("Next: Total chlorine").go().type("0.31").take().all_sent()
        expect(bench.page.locator(".outcome")).to_have_count(3)
        expect(bench.page.locator(".r-figure")).to_have_text(
            ["0.34", "0.31", "not detected, < 0.06"]
        )
        results = Result.objects.filter(run_id=bench.run).order_by("pk")
        self.assertEqual([r.stage for r in results], ["free", "total", "combined"])
        page = bench.page
        page.goto(self.base + self.room.url(f"results/{results[2].pk}/"))
        expect(page.get_by_role("heading", level=1)).to_contain_text("Combined chlorine")
        expect(page.locator(".big-value")).to_contain_text("not detected")
        self.assertEqual(axe(page), [])

    def test_stopping_after_a_stage_keeps_it(self) -> None:
        """What is done stays; what was not begun makes no result."""
        bench = self.begin("alkalinity-titrator").go().type("40").take().click("End test, save")
        bench.all_sent()
        self.assertEqual(self.figures(bench), ["32"])
        results = Result.objects.filter(run_id=bench.run)
        self.assertEqual([r.stage for r in results], ["p"])

    def test_a_reserve_against_the_water_of_the_mains(self) -> None:
        """14 drops less 3: 11, reached; the end has to hold."""
        self.room.set_limits("heating-loop-demo")
        bench = self.begin("inhibitor-reserve").go()
        expect(bench.page.locator("#eyebrow")).to_contain_text("Reference")
        bench.press(*["Space"] * 3, "e")
        expect(bench.page.locator("#w-hold")).to_contain_text("Must stay for")
        bench.page.clock.fast_forward(31_000)
        bench.press("n").go().press(*["Space"] * 14, "e")
        bench.page.clock.fast_forward(31_000)
        bench.press("n").all_sent()
        expect(bench.page.locator(".r-figure")).to_have_text("11")
        expect(bench.page.locator(".r-told")).to_contain_text("Reserve reached.")
        self.assertEqual(flags_of(Result.objects.get(run_id=bench.run)), [])

    def test_a_clock_early_over_and_late(self) -> None:
        """It counts in the title; going on early, or reading late, travels with the result."""
        bench = self.begin("phosphate-photometer")
        bench.go(until="wait")
        expect(bench.page).to_have_title(re.compile(r"^\d+:\d\d · "))
        expect(bench.page.get_by_role("button", name="Continue early")).to_be_visible()
        self.assertEqual((axe(bench.page), overflow(bench.page)), ([], 0))
        bench.press("n").go().type("1.50").take()
        bench.go()
        bench.page.clock.fast_forward(90_000)
        expect(bench.page.locator("#w-late")).to_be_visible()
        bench.type("1.20").take().all_sent()
        flags = flags_of(Result.objects.get(run_id=bench.run))
        self.assertTrue(any("waited" in flag for flag in flags), flags)
        self.assertTrue(any("due by" in flag for flag in flags), flags)

    def test_a_clock_goes_on_through_a_reload(self) -> None:
        """It follows from the acts, not from the page."""
        bench = self.begin("phosphate-photometer")
        bench.go(until="wait")
        bench.page.clock.fast_forward(60_000)
        begun = time.monotonic()
        before = self.seconds_left(bench)
        bench.all_sent().page.reload()
        after = self.seconds_left(bench.ready())
        took = time.monotonic() - begun
        self.assertTrue(0 <= before - after <= took + 1, (before, after, took))

    def seconds_left(self, bench: BenchDriver) -> int:
        """What the clock of the wait shows."""
        minutes, seconds = bench.page.locator("#clock-time").inner_text().split(":")
        return int(minutes) * 60 + int(seconds)

    def test_a_practised_hand_folds_and_keys(self) -> None:
        """No guidance, all ticks by one key, the reading typed; it stays so on this device."""
        page = self.sign_in(self.context(PHONE))
        page.clock.install()
        bench = self.bench(page, "nitrate-comparator")
        page.get_by_text("Sound, vibration, notices, expert mode").click()
        page.get_by_label("Expert mode: hide guidance, type readings").check()
        expect(page.locator("#lead")).to_be_hidden()
        expect(page.locator("#fig")).to_be_hidden()
        bench.press("1", "n")
        expect(page.locator("#all")).to_be_visible()
        bench.press("a")
        self.assertNotEqual(bench.spot, "tick")
        bench.go().type("2.0").take()
        expect(page.locator(".r-figure")).to_have_text("2.0")
        page.reload()
        bench.ready()
        self.assertEqual(page.locator("#main").get_attribute("data-folded"), "yes")

    def test_wrong_figures_are_said_and_stay(self) -> None:
        """Not a number, off the scale, not a step of it, nothing."""
        bench = self.begin("hardness-burette").go()
        for typed, said in (
            ("abc", "is not a number"),
            ("99", "goes from 0.00 to 25.00"),
            ("", "Enter the reading first"),
        ):
            bench.page.get_by_label("Reading", exact=True).fill(typed)
            bench.take()
            expect(bench.page.locator("#reading-wrong")).to_contain_text(said)
            expect(bench.page.get_by_label("Reading", exact=True)).to_have_value(typed)
        self.assertEqual(axe(bench.page), [])

    def test_a_figure_between_two_steps_is_asked_about_and_kept(self) -> None:
        """12.12 on steps of 0.05: kept as read, flagged; page and server agree."""
        bench = self.begin("hardness-burette").go().type("0.00").take().go().type("12.12").take()
        asked = bench.page.get_by_role("alertdialog")
        expect(asked).to_contain_text("12.12 is between two steps of this scale (0.05 mL)")
        self.assertEqual(axe(bench.page), [])
        bench.click("Yes, it shows that")
        bench.go().type("0.00").take().go().type("12.10").take().all_sent()
        flags = Result.objects.filter(run_id=bench.run).first()
        self.assertIsNone(flags)
        self.assertEqual(bench.digest(), [digest(state_of(Run.objects.get(pk=bench.run)))])

    def test_a_display_that_shows_something_else_can_be_kept(self) -> None:
        """1.32 mS where the meter should show µS: not refused, flagged."""
        bench = self.begin("conductivity-meter").go().type("1.32 mS/cm").take()
        expect(bench.page.get_by_role("alertdialog")).to_contain_text("does not show 1.32 mS/cm")
        bench.click("Keep it as I typed it" if self.offers_another(bench) else "Yes, it shows that")
        bench.all_sent()
        expect(bench.page.locator(".r-figure")).to_have_text("1320")
        flags = flags_of(Result.objects.get(run_id=bench.run))
        self.assertIn("1.32 mS/cm was asked about and confirmed", flags[0])
        self.assertEqual(bench.digest(), [digest(state_of(Run.objects.get(pk=bench.run)))])

    def offers_another(self, bench) -> bool:
        return bench.page.get_by_role("button", name="Save as typed").is_visible()

    def test_on_the_bottom_the_depth_is_asked(self) -> None:
        """The mark stays while the depth is typed: > 1.20 m, never the rope's length."""
        bench = self.begin("disc-on-rope").go()
        bench.click("Still seen on the bottom").take()
        expect(bench.page.locator("#reading-wrong")).to_contain_text(
            "Enter the number after the sign"
        )
        bench.type("1.20")
        expect(bench.page.locator("#reading-mark")).to_be_visible()
        bench.take().all_sent()
        expect(bench.page.locator(".r-figure")).to_have_text("> 1.20")

    def test_an_improbable_difference_is_asked_about(self) -> None:
        """A refill that nobody made: 8.4, then 18.2; kept when confirmed."""
        bench = self.begin("oxygen-syringe").go().type("0").take().type("8.4").take()
        bench.go().type("1").take().type("8.2").take()
        expect(bench.page.get_by_role("alertdialog")).to_contain_text("Check it and the refills")
        bench.click("Yes, it shows that").all_sent()
        self.assertEqual(bench.digest(), [digest(state_of(Run.objects.get(pk=bench.run)))])

    def test_m_below_p_is_asked_about(self) -> None:
        """The counter was not set back, so it cannot read less."""
        bench = self.begin("alkalinity-titrator").go().type("50").take().click("Next: M").go()
        bench.type("45").take()
        expect(bench.page.get_by_role("alertdialog")).to_contain_text("below 50 of P alkalinity")
        bench.type("125").take().all_sent()
        self.assertEqual(self.figures(bench), ["40", "100"])

    def test_a_reading_is_put_right_afterwards(self) -> None:
        """By what the scale shows; the old one stays, struck, with the reason."""
        bench = self.begin("hardness-burette").go().type("0.60").take().go().type("13.00").take()
        bench.go().type("0.00").take().go().type("12.30").take().click("End test, save").all_sent()
        result = Result.objects.get(run_id=bench.run, stage="total")
        page = bench.page
        page.goto(self.base + self.room.url(f"results/{result.pk}/correct/"))
        page.get_by_role("radio", name=re.compile("^first:")).check()
        page.get_by_label("end").check()
        page.get_by_label("Correct reading, as the scale shows it").fill("12.90 mL")
        page.get_by_label("Reason").fill("misread by a mark")
        page.get_by_role("button", name="Save correction").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Hardness")
        expect(page.locator(".table").first).to_contain_text("misread by a mark")
        result.refresh_from_db()
        self.assertEqual(result.current.value.figure, "123")
