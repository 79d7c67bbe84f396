"""What a programme does its own way: depth, waste; and what is known of its waters."""

import json
import re
from datetime import timedelta

from django.utils import timezone

from kessa.flows.receiving import keep
from kessa.places.models import Water
from kessa.platform.models import AuditEntry
from kessa.verdicts.point_context import known_of
from kessa.visits import services as visits
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

NITRATE = "nitrate-comparator"


class HowWeWork(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["manager"])

    def sheet(self, run) -> dict:
        page = self.client.get(self.room.url(f"bench/{run.pk}/")).content.decode()
        payload = re.search(r'<script id="payload" type="application/json">(.*?)</script>', page)
        return json.loads(payload[1])["sheets"][run.version.method_id]

    def test_depth_from_the_rule_to_the_record(self) -> None:
        """The rule is told when the bottle is filled; the depth used stands with the result."""
        url = self.room.url("settings/work/")
        wrong = self.client.post(url, {"depth_rule": "fixed", "waste_drain": "Sink two."})
        self.assertContains(wrong, "Enter the depth in centimetres.", status_code=422)
        self.assertContains(wrong, "Sink two.", status_code=422)
        self.client.post(url, {"depth_rule": "share", "depth_cm": "30"})
        self.assertEqual(AuditEntry.objects.filter(act="programme.changed").count(), 1)
        sample = visits.begin(
            self.room.programme, self.room.monitor, self.room.point, "chloride-drops-15ml"
        )
        visits.decide_to_go(sample, self.room.monitor)
        take = self.room.url(f"samples/{sample.pk}/sample/")
        page = self.client.get(take)
        self.assertContains(page, "30 cm below the surface; where the water is shallower")
        now = timezone.now().strftime("%Y-%m-%dT%H:%M")
        odd = self.client.post(take, {"at": now, "depth_cm": "knee"})
        self.assertContains(odd, "Enter whole centimetres", status_code=422)
        self.client.post(take, {"at": now, "depth_cm": "25"})
        sample.refresh_from_db()
        run = sample.runs.get()
        taps = Taps(run.version.method, run=str(run.pk)).before().count(1, "blank")
        taps.count(7).count(7)
        keep(self.room.programme, self.room.monitor, [e.as_json() for e in taps.events])
        result = run.results.get()
        self.assertEqual(result.current.context["depth_cm"], 25)
        self.assertContains(
            self.client.get(self.room.url(f"results/{result.pk}/")), "taken 25 cm below"
        )
        visits.correct(run.sample, self.room.monitor, {"depth_cm": None}, "was the point’s depth")
        self.assertNotIn("depth_cm", visits.context_of(run.sample))
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "depth 25 cm")

    def test_waste_in_the_programmes_own_words(self) -> None:
        """Beside the kit's, on the method's page and in the bench's last line."""
        run = self.room.new_run(method=NITRATE)
        self.client.post(
            self.room.url("settings/work/"), {"waste_heavy-metal": "Red can in hut 2."}
        )
        self.assertContains(
            self.client.get(self.room.url(f"library/{NITRATE}/2/")), "Here: Red can in hut 2."
        )
        self.assertTrue(self.sheet(run)["words"]["waste"].endswith("Here: Red can in hut 2."))

    def test_what_is_known_of_a_sample(self) -> None:
        """Traits of its water, what was seen, temperature, what was measured about that time."""
        self.room.water.traits = ["turbid"]
        self.room.water.save()
        for days in (0, 1):
            run = self.room.new_run(days_ago=days, method="ph-meter")
            taps = Taps(run.version.method, run=str(run.pk)).before()
            taps.read(*["9.60"] * len(taps.stage.reader().reading_fields))
            keep(self.room.programme, self.room.monitor, [e.as_json() for e in taps.events])
        run = self.room.new_run(method=NITRATE)
        sample = run.sample
        sample.water_c, sample.seen = 7, ["foam"]
        sample.save()
        known = known_of(sample)
        self.assertEqual((known.traits, known.seen, known.water_c), (("turbid",), ("foam",), 7.0))
        self.assertEqual([value.number for value in known.values], [9.6])
        asked = [one["id"] for one in self.sheet(run)["asks"]]
        self.assertEqual(asked, ["not-for-turbid", "ph"])
        sample.taken_at += timedelta(hours=3)
        sample.save()
        self.assertEqual(known_of(sample).values, ())

    def test_a_water_is_described_anew(self) -> None:
        """Traits by the form; another programme's water does not exist."""
        url = self.room.url(f"waters/{self.room.water.pk}/change/")
        self.assertContains(self.client.get(url), "is coloured")
        data = {"water_name": "Beck", "kind": "heating", "traits": ["glycol"], "limit_set": ""}
        self.assertRedirects(self.client.post(url, data), self.room.url("waters/"))
        water = Water.objects.get(pk=self.room.water.pk)
        self.assertEqual((water.kind, water.traits), ("heating", ["glycol"]))
        page = self.client.get(self.room.url("waters/")).content.decode()
        self.assertIn("Beck</a> · heating loop · glycol", " ".join(page.split()))
        self.assertEqual(
            AuditEntry.objects.get(act="water.changed").data["after"]["kind"], "heating"
        )
        nameless = self.client.post(url, {**data, "water_name": ""})
        self.assertContains(nameless, "Enter a name", status_code=422)
        other = Room("south-room").water
        self.assertEqual(
            self.client.get(self.room.url(f"waters/{other.pk}/change/")).status_code, 404
        )
