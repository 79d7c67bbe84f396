"""The bench: every way a drop count can go, as the page shows it and as the server folds it."""

import random
import re

from playwright.sync_api import expect

from kessa.flows.evaluating import state_of
from kessa.pages.bench.digest import digest
from kessa.results.models import Result
from kessa.runs.models import Run
from tests.browser.base import BenchDriver, BrowserTest


class FirstPaint(BrowserTest):
    def test_the_first_step_is_said_before_the_script_runs(self) -> None:
        """The server and the page say the same; a question about the sample comes from the page."""
        plain = self.sign_in(self.context(java_script_enabled=False))
        full = self.sign_in(self.context())
        for method in ("chloride-drops-15ml", "alkalinity-titrator", "chlorine-dioxide-sensors"):
            with self.subTest(method):
                run = self.room.new_run(method=method)
                url = self.base + self.room.url(f"bench/{run.pk}/")
                plain.goto(url)
                BenchDriver(full, str(run.pk), url)
                for part in ("#eyebrow", "#title", "#lead"):
                    self.assertEqual(
                        plain.locator(part).inner_text(), full.locator(part).inner_text()
                    )

    def test_a_test_under_way_is_painted_by_the_page_alone(self) -> None:
        """What the server says is empty once something was done, or is to be asked first."""
        bench = self.bench().press("1").all_sent()
        plain = self.sign_in(self.context(java_script_enabled=False))
        plain.goto(bench.page.url)
        expect(plain.locator("#title")).to_be_empty()
        self.room.water.traits = ["turbid"]
        self.room.water.save()
        run = self.room.new_run(method="nitrate-comparator")
        plain.goto(self.base + self.room.url(f"bench/{run.pk}/"))
        expect(plain.locator("#title")).to_be_empty()


class Outcomes(BrowserTest):
    def test_a_blank_of_three_stops_the_run(self) -> None:
        """Water, glass, reagents and hands are named, the blank is offered again, the failed one
        stays struck through on the tape."""
        bench = self.bench()
        bench.press("1").count(3, "blank")
        expect(bench.title).to_have_text("The blank took more than 2 drops")
        for suspect in ("Water", "Glass", "Reagents", "Hands"):
            expect(bench.page.get_by_role("term").filter(has_text=suspect)).to_be_visible()
        bench.click("Repeat blank").count(2, "blank")
        expect(bench.page.locator("#eyebrow")).to_contain_text("First")
        struck = bench.page.locator("#tape li.out")
        expect(struck).to_have_count(1)
        expect(struck).to_contain_text("blank over 2 drops")
        expect(struck.locator(".val")).to_have_css("text-decoration-line", "line-through")

    def test_no_change_at_24_goes_on_with_the_small_portion(self) -> None:
        """The bound is kept; the 5 mL run is linked, with its own blank, without a network."""
        bench = self.bench()
        page = bench.page
        bench.press("1").count(1, "blank").steps("sample")
        page.context.set_offline(True)
        bench.press(*["Space"] * 26)
        expect(bench.number).to_have_text("24")
        bench.click("End count (no change)")
        expect(bench.title).to_have_text("No change at 24 drops: stop")
        expect(page.locator("#tape li").last).to_contain_text("> 199")
        bench.click("Continue with the smaller portion")
        expect(page.locator("#eyebrow")).to_contain_text("Chloride, 5 mL")
        bench.press("1").count(1, "blank").count(9).count(10)
        expect(page.locator(".r-figure")).to_have_text("224")
        page.context.set_offline(False)
        bench.all_sent()
        first = Result.objects.get(run_id=bench.run)
        second = Result.objects.get(run__continues_id=bench.run)
        self.assertEqual(first.current.value.figure, "> 199")
        self.assertEqual(second.current.value.figure, "224")
        page.reload()
        bench.ready()
        expect(page.locator(".r-figure")).to_have_text("224")

    def test_no_change_in_the_small_portion_asks_to_dilute(self) -> None:
        """ "> 597", and the way on is a dilution."""
        bench = self.bench()
        bench.press("1").count(1, "blank").steps("sample").press(*["Space"] * 24, "x", "n")
        bench.press("1").count(1, "blank").steps("sample").press(*["Space"] * 24, "x")
        expect(bench.page.locator(".r-figure")).to_have_text("> 597")
        expect(bench.page.locator("#lead")).to_contain_text("Dilute the sample")

    def test_thirds(self) -> None:
        """Closest two; mean of all three; no result and its causes; all stay on the tape."""
        for samples, figure, working in (
            ((7, 12, 8), "58", "7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl"),
            ((7, 9, 8), "62", "7, 9, 8 drops: (mean 8 − ½) × 8.3 = 62 mg/L as Cl"),
        ):
            bench = self.bench()
            bench.through(*samples).all_sent()
            with self.subTest(samples=samples):
                expect(bench.page.locator(".r-figure")).to_have_text(figure)
                expect(bench.page.locator(".r-working")).to_have_text(working)
                self.assertEqual(len(bench.tape()), 5)
        bench = self.bench()
        bench.through(7, 12, 17).all_sent()
        expect(bench.title).to_have_text("Not repeatable")
        expect(bench.page.locator(".r-causes li")).to_have_count(4)
        self.assertEqual(len(bench.tape()), 4)

    def test_the_verdict_follows_from_the_interval(self) -> None:
        """13 twice: within 120. 15 and 14: too close to call, and what would decide it."""
        bench = self.bench()
        bench.through(13, 13)
        expect(bench.page.locator(".r-sign")).to_have_text("● within limit · long-term 120")
        bench = self.bench()
        bench.through(15, 14)
        expect(bench.page.locator(".r-sign")).to_have_text("◐ too close to call · long-term 120")
        expect(bench.page.locator(".r-told")).to_contain_text(
            "To get a clear verdict, use a standard"
        )


class Acts(BrowserTest):
    def test_taking_back(self) -> None:
        """A drop, the end, and going on can each be taken back."""
        bench = self.bench()
        bench.press("1").steps("blank").press("Space", "Space", "Backspace")
        expect(bench.number).to_have_text("1")
        bench.press("e")
        expect(bench.title).to_have_text("Did it stay?")
        bench.click("Resume count")
        bench.press("Space", "e", "n", "Backspace")
        expect(bench.title).to_have_text("Did it stay?")
        expect(bench.number).to_have_text("2")

    def test_a_finished_run_can_be_taken_up_again(self) -> None:
        """By a button too; striking and stopping are offered only where they have a meaning."""
        bench = self.bench()
        page = bench.page
        bench.through(7, 8).all_sent()
        page.get_by_text("Something went wrong").click()
        expect(page.get_by_role("button", name=re.compile("Discard|End test"))).to_have_count(0)
        bench.click("Undo last action")
        expect(bench.title).to_have_text("Did it stay?")
        bench.click("In doubt").click("Save 7 or 8").all_sent()
        result = Result.objects.get()
        self.assertEqual(
            result.current.working, "7, 7.5 drops: (mean 7.25 − ½) × 8.3 = 56 mg/L as Cl"
        )
        self.assertEqual(result.evaluations.count(), 2)

    def test_too_strong_doubt_and_check_drop(self) -> None:
        """One off; two neighbours; a check drop not counted; never below a blank's first."""
        bench = self.bench()
        page = bench.page
        bench.press("1").steps("blank").press("Space", "e")
        expect(page.get_by_role("button", name=re.compile("Subtract 1"))).to_be_disabled()
        bench.press("n").steps("sample").press(*["Space"] * 8, "e").click("Subtract 1")
        expect(bench.number).to_have_text("7")
        bench.click("In doubt")
        expect(bench.number).to_have_text("7–8")
        bench.click("Add check drop")
        expect(page.locator("#checked")).to_be_visible()
        bench.click("Save 7 or 8").all_sent()
        expect(page.locator("#tape li").last).to_contain_text("First, 7–8 drops")
        state = state_of(Run.objects.get(pk=bench.run))
        self.assertEqual(
            (state.stage.samples[0].kind, state.stage.samples[0].check_drops), ("doubt", 1)
        )

    def test_the_plain_field(self) -> None:
        """A typed count replaces the taps; above the maximum it is refused and stays typed."""
        bench = self.bench()
        field = bench.page.get_by_label("Or type the count")
        bench.press("1").steps("blank")
        field.fill("25")
        bench.click("Set count")
        expect(field).to_have_attribute("aria-invalid", "true")
        expect(field).to_have_value("25")
        field.fill("2")
        bench.click("Set count")
        expect(bench.number).to_have_text("2")

    def test_striking_a_determination(self) -> None:
        """For a stated cause it begins again and stays struck on the tape."""
        bench = self.bench()
        bench.press("1").count(1, "blank").steps("sample").press(*["Space"] * 4)
        bench.page.get_by_text("Something went wrong").click()
        bench.click("Discard this measurement: lost count")
        expect(bench.page.locator("#eyebrow")).to_contain_text("First, attempt 2")
        expect(bench.page.locator("#tape li.out")).to_contain_text("lost count")

    def test_flagging_a_result_for_its_reviewer(self) -> None:
        """Words from the bench stand with the result and among its acts; empty ones are no flag."""
        bench = self.bench()
        page = bench.through(7, 8).page
        page.get_by_text("Something went wrong").click()
        words = page.get_by_label("Note for the reviewer")
        bench.click("Flag the result")
        expect(words).to_be_focused()
        words.fill("gusty, the cap flew off")
        bench.click("Flag the result").all_sent()
        expect(page.locator("#flagged")).to_have_text("Saved with the result.")
        page.goto(self.base + self.room.url(f"results/{Result.objects.get().pk}/"))
        expect(page.get_by_text("Flagged at the bench: gusty")).to_be_visible()
        expect(page.get_by_text("flagged: gusty, the cap flew off")).to_be_visible()
        page.goto(self.base + self.room.url("log/"))
        expect(page.locator("table s")).to_have_count(0)

    def test_wrong_ph_ends_as_not_tested(self) -> None:
        """An answer that is kept, not a number that is forced."""
        bench = self.bench()
        bench.press("3").all_sent()
        expect(bench.title).to_have_text("Not tested")
        self.assertEqual(Result.objects.get().current.finish, "not-tested")

    def test_a_held_key_counts_once(self) -> None:
        """Key repeat is no second drop."""
        bench = self.bench()
        bench.press("1").steps("blank")
        for _ in range(4):
            bench.page.keyboard.down("Space")
        bench.page.keyboard.up("Space")
        expect(bench.number).to_have_text("1")


WATCH = """() => {
  window.shownMismatch = 0;
  const notice = document.getElementById("mismatch");
  new MutationObserver(() => { if (!notice.hidden) window.shownMismatch += 1; })
    .observe(notice, { attributes: true, attributeFilter: ["hidden"] });
}"""


class PageAndServer(BrowserTest):
    worker = True

    def test_random_acts_fold_to_the_same_state(self) -> None:
        """240 random keys, with and without the network: page and core agree to the last flag, and
        at no moment does the page say that they differ."""
        bench = self.bench()
        bench.page.evaluate(WATCH)
        draw = random.Random(11)
        keys = ["Space"] * 6 + ["n"] * 5 + ["1"] * 4 + ["e"] * 2 + ["Backspace", "o", "d", "c", "2"]
        for number in range(240):
            if number % 40 == 0:
                bench.page.context.set_offline(number % 80 == 40)
            bench.press(draw.choice(keys))
        bench.page.context.set_offline(False)
        bench.all_sent()
        chain = [Run.objects.get(pk=bench.run)]
        while following := Run.objects.filter(continues=chain[-1]).first():
            chain.append(following)
        self.assertEqual(bench.digest(), [digest(state_of(run)) for run in chain])
        self.assertEqual(bench.page.evaluate("window.shownMismatch"), 0)
