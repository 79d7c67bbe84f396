"""Two devices on one visit, each with a network now and then: whatever both did, every page, the
server and ./kessa run say the same, and nothing is kept twice."""

import io
import json
import random
import tempfile
from contextlib import redirect_stdout
from pathlib import Path

from playwright.sync_api import Request

from kessa.flows.evaluating import state_of
from kessa.pages.bench.digest import digest
from kessa.runs.models import Event, Run
from kessa_core.cli.__main__ import main
from kessa_core.runs.export import write
from tests.browser.base import PHONE, BenchDriver, BrowserTest
from tests.browser.test_same import RANDOM

METHODS = ("chloride-drops-15ml", "strip-three-pads", "nitrate-comparator")
AT_ONCE, IN_ALL = 10, 500


def ids_sent(request: Request) -> list[str]:
    """The acts that a request carries."""
    return [event["id"] for event in json.loads(request.post_data or "{}").get("events", [])]


class TwoDevices(BrowserTest):
    def test_random_acts_on_one_visit(self) -> None:
        """500 acts in three tests, in two tabs of one device and on another one."""
        visit = self.room.new_visit(*METHODS)
        runs = list(Run.objects.of(self.room.programme).of_visit(visit.pk))
        desk, phone = self.sign_in(self.context()), self.sign_in(self.context(PHONE))
        benches = [
            BenchDriver(self.new_page(device.context), str(run.pk), self.address(run))
            for device in (desk, phone)
            for run in runs
        ]
        benches.append(
            BenchDriver(self.new_page(desk.context), benches[0].run, self.address(runs[0]))
        )
        draw = random.Random(29)
        for _ in range(IN_ALL // AT_ONCE):
            for device in (desk, phone):
                device.context.set_offline(draw.random() < 0.5)
            bench = draw.choice(benches)
            if draw.random() < 0.2:
                bench.page.evaluate("document.getElementById('main').kessa.act('take-over', {})")
            chances = [draw.random() for _ in range(3 * AT_ONCE)]
            acts = {"chances": chances, "acts": AT_ONCE, "ends": False}
            bench.page.evaluate(RANDOM, acts)
        for device in (desk, phone):
            device.context.set_offline(False)
        for _ in range(2):
            for bench in benches:
                bench.all_sent()
                bench.page.evaluate("document.getElementById('main').kessa.pull()")
        for run in runs:
            with self.subTest(run.version.method_id):
                expected = digest(state_of(run))
                of_run = [bench for bench in benches if bench.run == str(run.pk)]
                self.assertEqual({bench.digest()[0] for bench in of_run}, {expected})
                self.assertEqual(self.by_the_command(run), expected)
                kept = set(Event.objects.of_run(run).values_list("pk", flat=True))
                for bench in of_run:
                    self.assertEqual(set(self.ids(bench)), kept)
        made = Event.objects.filter(run__in=runs)
        self.assertGreaterEqual(made.count(), IN_ALL)
        self.assertEqual(made.values("device").distinct().count(), 2)

    def test_the_tabs_of_one_device_send_in_turn(self) -> None:
        """What two tabs kept without a network goes to the server once, and both hear of it."""
        runs = [self.room.new_run(), self.room.new_run()]
        context = self.context()
        self.sign_in(context)
        benches = [
            BenchDriver(self.new_page(context), str(run.pk), self.address(run)) for run in runs
        ]
        posted: list[str] = []
        context.on("request", lambda request: posted.extend(ids_sent(request)))
        context.set_offline(True)
        for bench in benches:
            bench.press("1").count(1, "blank")
        posted.clear()
        context.set_offline(False)
        for bench in benches:
            bench.all_sent()
        self.assertEqual(len(posted), len(set(posted)))
        self.assertEqual(set(posted), set(Event.objects.values_list("pk", flat=True)))
        for bench, run in zip(benches, runs, strict=True):
            self.assertEqual(bench.digest(), [digest(state_of(run))])

    def address(self, run: Run) -> str:
        return self.base + self.room.url(f"bench/{run.pk}/")

    def ids(self, bench: BenchDriver) -> list[str]:
        return bench.page.evaluate("document.getElementById('main').kessa.ids()")

    def by_the_command(self, run: Run) -> str:
        """The digest of what ./kessa run makes of the run's file."""
        events = [event.as_core() for event in Event.objects.of_run(run)]
        with tempfile.TemporaryDirectory() as folder, redirect_stdout(io.StringIO()) as out:
            file = Path(folder) / "run.jsonl"
            file.write_text(write(run.version.method, events, {}), "utf-8")
            main(["run", run.version.method_id, str(file), "--json"])
        told = json.loads(out.getvalue())
        state = state_of(run)
        self.assertEqual([d["drops"] for d in told["determinations"]],
                         [d.count for d in state.determinations])  # fmt: skip
        self.assertEqual([u["event"] for u in told["unfit"]], [u[0] for u in state.ignored])
        self.assertEqual(told["place"]["spot"], state.place.spot)
        return digest(state)
