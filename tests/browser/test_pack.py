"""The demo that is shipped is what the code would make."""

from itertools import islice

from django.test import tag

from demo import pack
from demo.shots import JOBS, path_of
from pairs.models import Marking
from pairs.pipeline import measure_marking
from pairs.queries import latest_readings
from tests.browser.demo import DemoInBrowser

STALE = "The demo's pack is out of date: run make demo-pack."
DRAWN_AGAIN, MEASURED_AGAIN = 2, 10


@tag("browser")
class Pack(DemoInBrowser):
    def setUp(self):
        """No browser is wanted."""

    def test_it_was_made_by_this_code(self):
        told, now = pack.manifest(), pack.made_by()
        self.assertEqual({name: told.get(name) for name in now}, now, STALE)
        self.assertEqual(len(list(pack.PHOTOGRAPHS.glob("*.jpg"))), told["counts"]["photographs"])
        self.assertLess(max(path.stat().st_size for path in pack.PHOTOGRAPHS.iterdir()), 1_000_000)

    def test_photographs_drawn_again_are_the_same(self):
        small = sorted(
            ((key, job) for key, jobs in JOBS.items() for job in jobs),
            key=lambda one: path_of(pack.PHOTOGRAPHS, *one).stat().st_size,
        )
        for key, job in small[:DRAWN_AGAIN]:
            self.assertEqual(path_of(pack.PHOTOGRAPHS, key, job).read_bytes(), job.jpeg(), STALE)

    def test_readings_taken_again_are_the_same(self):
        markings = Marking.objects.filter(photo__pair__label="R2").exclude(checkpoint__measure="")
        known = latest_readings(list({one.photo.pair for one in markings.select_related("photo__pair")}))
        for marking in islice(markings.select_related("checkpoint", "photo__pair__organisation"), MEASURED_AGAIN):
            told = known[marking.photo.pair_id, marking.checkpoint_id]
            again = measure_marking(marking, told.taken_by)
            self.assertEqual((told.refusal or {}).get("reason"), (again.refusal or {}).get("reason"), STALE)
            if told.value is not None:
                self.assertAlmostEqual(float(told.value), float(again.value), places=6, msg=STALE)
