"""Every reading type: by handling the drawn instrument, and by the plain field."""

from dataclasses import dataclass

from playwright.sync_api import expect

from kessa.flows.evaluating import state_of
from kessa.pages.bench.digest import digest
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa_core.methods import shipped
from kessa_core.readings.registry import READERS
from kessa_core.readings.scale import Scale
from tests.browser.base import PHONE, BenchDriver, BrowserTest, axe, overflow


@dataclass(frozen=True)
class Case:
    """A method, what is read at each reading or count in turn, and what it comes to."""

    method: str
    readings: tuple[str, ...]
    figures: tuple[str, ...]


CASES = {
    "drop-count": Case("chloride-drops-15ml", ("1", "7", "8"), ("58",)),
    "tablet-count": Case("hardness-tablets", ("6",), ("83",)),
    "burette": Case("hardness-burette", ("0.60", "13.00", "0.00", "12.30"), ("124",)),
    "digital-titrator": Case("alkalinity-titrator", ("40", "131"), ("32", "105")),
    "syringe": Case("oxygen-syringe", ("0", "8.4", "0", "8.2"), ("8.3",)),
    "comparator": Case("nitrate-comparator", ("between 2.0 and 3.0",), ("2.5",)),
    "strip-pad": Case(
        "strip-three-pads",
        ("between 50 and 120", "0.15", "between 2 and 4"),
        ("50–120", "0.15", "2–4"),
    ),
    "strip-height": Case("chloride-strip-height", ("3.4",), ("118",)),
    "photometer": Case("phosphate-photometer", ("1.50", "1.20"), ("1.20",)),
    "meter": Case("conductivity-meter", ("846",), ("846",)),
    "sensor": Case("chlorine-dioxide-sensors", ("0.24",), ("0.24",)),
    "disc": Case("disc-on-rope", ("2.35", "2.25"), ("2.30",)),
    "tube": Case("sight-tube", ("30", "30"), ("30",)),
    "printed-scale": Case("glycol-refractometer", ("34",), ("34",)),
    "graded": Case("algae-cover", ("patches",), ("patches",)),
    "table": Case("sulphate-depth", ("12.0", "12.0"), ("48",)),
    "presence": Case("coliforms", ("present", "absent"), ("present", "absent")),
    "elsewhere": Case("lead-laboratory", ("0.0012", "0.0087"), ("0.0087",)),
}


class ReadingTypes(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.sign_in(self.context())
        self.page.clock.install()

    def test_every_reading_type_has_its_case(self) -> None:
        """A new reading type is tried here too."""
        self.assertEqual(set(CASES), set(READERS))

    def test_by_handling_the_instrument(self) -> None:
        """Pointer, then keys for the last steps; drops and tablets by tapping them."""
        for by, case in CASES.items():
            with self.subTest(by=by):
                self.play(self.bench(self.page, case.method), case, handle)

    def test_by_the_plain_field_on_a_phone(self) -> None:
        """What the scale shows, typed; axe finds nothing on the first reading, and nothing runs out
        of the window."""
        self.page = self.sign_in(self.context(PHONE))
        self.page.clock.install()
        for by, case in CASES.items():
            with self.subTest(by=by):
                bench = self.bench(self.page, case.method).go()
                self.assertIn(bench.spot, ("count", "read"))
                self.assertEqual((axe(self.page), overflow(self.page)), ([], 0))
                self.play(bench, case, lambda bench, raw, _scale: count_or_type(bench, raw))

    def play(self, bench: BenchDriver, case: Case, how) -> None:
        scales = scales_of(case.method)
        for raw in case.readings:
            if bench.go().spot == "stage-end":
                bench.press("n").go()
            step = bench.page.evaluate("document.getElementById('main').kessa.step()")
            how(bench, raw, scales.get(step))
            if bench.spot == "count":
                bench.press("e", "n")
            else:
                bench.take()
        if bench.spot == "stage-end":
            bench.click("End test, save")
        expect(bench.page.locator(".r-figure")).to_have_text(list(case.figures))
        bench.all_sent()
        run = Run.objects.get(pk=bench.run)
        self.assertEqual(bench.digest(), [digest(state_of(run))])
        results = Result.objects.filter(run=run).order_by("pk").select_related("current")
        told = [r.current.value.figure for r in results]
        self.assertEqual(told, list(case.figures))
        expect(bench.page.locator("#mismatch, #shown").locator("visible=true")).to_have_count(0)


def scales_of(method: str) -> dict[str, Scale]:
    """The scale of every reading step of a shipped method."""
    return {
        step.id: stage.reader().scale(step.slot)
        for stage in shipped(method).stages
        for step in stage.steps
        if step.slot
    }


def count_or_type(bench: BenchDriver, raw: str) -> None:
    if bench.spot == "read":
        bench.type(raw)
        return
    bench.page.get_by_label("Or type the count").fill(raw)
    bench.page.get_by_role("button", name="Set count").click()


def handle(bench: BenchDriver, raw: str, scale: Scale | None) -> None:
    """Moves the drawn instrument until it shows *raw*."""
    page = bench.page
    if scale is None:
        tablets = page.locator("[data-tablet]").locator("visible=true")
        for n in range(1, int(raw) + 1):
            if tablets.count():
                page.locator(f'[data-tablet="{n}"]').locator("visible=true").click()
            else:
                bench.click("Add drop")
        return
    wanted = scale.parse(scale.raw(raw))[0]
    dial = bench.dial
    if dial.get_attribute("data-dial") == "digits":
        turn_digits(bench, wanted)
    else:
        drag(bench, wanted, scale)
    dial.focus()
    here = int(dial.get_attribute("aria-valuenow") or 0)
    for _ in range(abs(wanted - here)):
        page.keyboard.press("ArrowUp" if wanted > here else "ArrowDown")


def drag(bench: BenchDriver, wanted: int, scale: Scale) -> None:
    """From the middle of the drawing along its axis to about the place that is wanted."""
    dial, mouse = bench.dial, bench.page.mouse
    dial.scroll_into_view_if_needed()
    box = dial.bounding_box()
    view = [float(part) for part in (dial.get_attribute("viewBox") or "").split()]
    share = (wanted - scale.low) / (scale.high - scale.low)
    if stops := dial.get_attribute("data-stops"):
        at = float(stops.split()[wanted - scale.low])
    else:
        first, last = (float(dial.get_attribute(f"data-{end}")) for end in ("from", "to"))
        at = first + (last - first) * share
    across = dial.get_attribute("data-axis") == "x"
    along = (at - view[0 if across else 1]) / view[2 if across else 3]
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    end = (
        (box["x"] + box["width"] * along, middle[1])
        if across
        else (middle[0], box["y"] + box["height"] * along)
    )
    mouse.move(*middle)
    mouse.down()
    mouse.move(*end, steps=3)
    mouse.up()


def turn_digits(bench: BenchDriver, wanted: int) -> None:
    """Each digit of a display by the mark above or below it, the greatest first."""
    dial = bench.dial
    wheels = dial.locator("[data-by]")
    steps = sorted(
        {abs(int(by)) for by in wheels.evaluate_all("all => all.map(w => w.dataset.by)")}
    )
    dial.focus()
    bench.press("ArrowUp")
    for step in reversed(steps):
        here = int(dial.get_attribute("aria-valuenow") or 0)
        turns = abs(wanted - here) // step
        sign = "" if wanted > here else "-"
        for _ in range(turns):
            dial.locator(f'[data-by="{sign}{step}"]').click()
