"""Lists and charts of many rows: every row once, no peak and no gap lost."""

import re
from datetime import timedelta
from itertools import pairwise

from django.test import TestCase
from django.utils import timezone

from kessa.results.history import history_of
from kessa.results.models import Evaluation, LatestResult, Result
from kessa.results.projections import refresh_latest, series_of
from kessa.ui.keyset import read_number, read_sampled
from kessa.verdicts.models import Verdict
from tests.builders.people import Room


class LongLists(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.room = Room()
        cls.first = cls.room.finished(days_ago=1)

    def setUp(self) -> None:
        self.client.force_login(self.room.people["reviewer"])

    def more(self, numbers: list[float], step: timedelta, gap: int = -1) -> None:
        """Results with these figures, one each *step*, the last one now; a year without any after
        number *gap*."""
        base = Evaluation.objects.values().get(pk=self.first.current_id)
        judged = Verdict.objects.filter(evaluation=self.first.current_id).values()
        now = timezone.now()
        for at, number in enumerate(numbers):
            when = now - step * (len(numbers) - at - 1)
            if at <= gap:
                when -= timedelta(days=365)
            result = Result.objects.create(
                programme=self.room.programme, run=self.first.run, stage=f"s{at}",
                parameter="chloride", point=self.room.point, sampled_at=when,
                outcome_code="within",
            )  # fmt: skip
            drawn = base | {"id": None, "result_id": result.pk, "number": number}
            result.current = Evaluation.objects.create(**drawn)
            result.save()
            Verdict.objects.bulk_create(
                Verdict(**(row | {"id": None, "evaluation_id": result.current_id}))
                for row in judged
            )
        refresh_latest([series_of(self.first)])

    def walk(self, start: str, word: str) -> list[str]:
        """The results of every page, from *start* on by the link called *word*."""
        seen: list[str] = []
        address = self.room.url(f"log/{start}")
        while address:
            page = self.client.get(address).content.decode()
            seen += re.findall(r'href="/p/north-room/results/(\d+)/"', page)
            link = re.search(rf'href="([^"]+)">{word}</a>', page)
            address = self.room.url("log/") + link[1].replace("&amp;", "&") if link else ""
        return seen

    def test_the_log_lists_every_result_once(self) -> None:
        """From the newest page to the oldest and back, also where times are alike."""
        self.more([50.0] * 90, timedelta())
        forward = self.walk("", "Older")
        wanted = [str(pk) for pk in Result.objects.newest_first().values_list("pk", flat=True)]
        self.assertEqual(forward, wanted)
        backward = self.walk("?end=1", "Newer")
        self.assertEqual(sorted(backward), sorted(wanted))
        self.assertEqual(len(backward), 91)

    def test_a_filter_holds_on_every_page(self) -> None:
        """The links carry it on."""
        self.more([50.0] * 60, timedelta(minutes=1))
        seen = self.walk(f"?point={self.room.point.pk}&sign=within", "Older")
        self.assertEqual(len(seen), 61)
        self.assertEqual(self.walk(f"?point={self.room.other.pk}", "Older"), [])

    def test_places_that_cannot_be_read_are_left_out(self) -> None:
        """The first page comes instead."""
        for text in ("x", "_", "2026-13-01T00:00:00+00:00_1", "2026-01-01T00:00:00_1", "1e9_2",
                     "0001-01-01T00:00:00+00:00_1", "2026-01-01T00:00:00+00:00_x"):  # fmt: skip
            self.assertIsNone(read_sampled(text), text)
            self.assertEqual(self.client.get(self.room.url(f"log/?after={text}")).status_code, 200)
        self.assertIsNone(read_number("1" * 30))
        self.assertEqual(read_number("12"), (12,))

    def test_a_dense_history_keeps_peaks_and_gaps(self) -> None:
        """1 000 results, one peak, one trough, a year without any: all three are drawn."""
        numbers = [40.0 + (n % 7) for n in range(1000)]
        numbers[333], numbers[777] = 200.0, 3.0
        self.more(numbers, timedelta(hours=1), gap=499)
        latest = LatestResult.objects.get()
        drawn = history_of(latest)
        self.assertLess(len(drawn), 420)
        self.assertGreater(len(drawn), 20)
        values = [past.number for past in drawn]
        self.assertIn(200.0, values)
        self.assertIn(3.0, values)
        times = [past.at for past in drawn]
        self.assertEqual(times, sorted(times))
        self.assertGreater(max(b - a for a, b in pairwise(times)).days, 360)
        every = history_of(latest, most=5000)
        self.assertEqual(len(every), 1001)
        self.assertEqual((drawn[0], drawn[-1]), (every[0], every[-1]))

    def test_the_audit_is_paged_by_number(self) -> None:
        """Every entry once."""
        for number in range(70):
            self.room.new_point(f"stone {number}")
        seen: list[str] = []
        address = self.room.url("audit/")
        while address:
            page = self.client.get(address).content.decode()
            seen += re.findall(r'<td class="is-family-monospace">(\d+)</td>', page)
            link = re.search(r'href="([^"]+)">Older</a>', page)
            address = self.room.url("audit/") + link[1].replace("&amp;", "&") if link else ""
        self.assertEqual(len(seen), len(set(seen)))
        self.assertGreater(len(seen), 75)
        last = self.client.get(self.room.url("audit/?end=1")).content.decode()
        self.assertIn('<td class="is-family-monospace">1</td>', last)
