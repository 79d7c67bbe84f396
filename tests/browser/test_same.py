"""The page and the core agree: on random acts of every kind of method, on every way of writing."""

import random
from pathlib import Path

from kessa.flows.evaluating import state_of
from kessa.pages.bench.digest import digest
from kessa.runs.models import Event, Run
from kessa_core.methods import shipped
from kessa_core.readings.scale import OffScale
from tests.browser.base import BrowserTest

RANDOM = Path(__file__).parent / "random_acts.js"
PARITY = (
    "hardness-tablets", "hardness-burette", "alkalinity-titrator", "inhibitor-reserve",
    "nitrate-comparator", "strip-three-pads", "phosphate-photometer", "nitrite-colorimeter",
    "chlorine-dioxide-sensors", "conductivity-meter-bare", "ph-meter", "disc-on-rope",
)  # fmt: skip


class SameEverywhere(BrowserTest):
    def test_random_acts_of_every_kind_of_method(self) -> None:
        """90 random acts each: page and core fold them to the same state."""
        page = self.sign_in(self.context())
        for number, method in enumerate(PARITY):
            with self.subTest(method=method):
                bench = self.bench(page, method)
                draw = random.Random(number)
                page.evaluate(RANDOM.read_text("utf-8"), [draw.random() for _ in range(270)])
                bench.all_sent()
                run = Run.objects.get(pk=bench.run)
                self.assertGreater(Event.objects.filter(run=run).count(), 80)
                self.assertEqual(bench.digest(), [digest(state_of(run))])

    def test_the_page_reads_scales_as_the_core_does(self) -> None:
        """The same place, kind or refusal for every way of writing a figure."""
        page = self.sign_in(self.context())
        written = (
            "", "7", "7.5", "7,5", "7.50", "12.4", "12.40|mS/cm", "846|µS/cm", "-3", "−3", ">",
            "> 2.35", "<", "0", "00.5", "1e3", "99999", "0.0087", "3.45", "abc", "2|kS", "63",
        )  # fmt: skip
        for method in ("conductivity-meter", *PARITY, "lead-laboratory", "thermometer"):
            self.bench(page, method)
            stages = page.evaluate("document.getElementById('main').kessa.now().sheet.stages")
            for stage, drawn in zip(shipped(method).stages, stages, strict=True):
                reader = stage.reader()
                for slot, scale in drawn["slots"].items():
                    got = page.evaluate(
                        "([scale, all]) => all.map((raw) => document.getElementById('main')"
                        ".kessa.parse(scale, raw))",
                        [scale, list(written)],
                    )
                    for raw, found in zip(written, got, strict=True):
                        with self.subTest(method=method, slot=slot, raw=raw):
                            self.same(reader.scale(slot), raw, found)

    def same(self, scale, raw: str, found: dict) -> None:
        try:
            n, kind = scale.parse(raw)
        except OffScale as refused:
            self.assertIn("error", found)
            self.assertEqual((found.get("suspected") or {}).get("raw", ""), refused.suspected)
            return
        self.assertEqual((found.get("n"), found.get("kind")), (n, kind))
