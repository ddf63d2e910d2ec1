"""Photographs read anew with newer methods, on many processes: beside the old, once, and never over a person's word."""

import io
import os
import signal
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from dask.distributed import Client, LocalCluster
from django.core.management import CommandError, call_command
from django.test import TestCase

from assay.contracts import CORRECTED_BY_HAND
from assay.errors import AssayError
from assay.measure.registry import MEASURES
from assay.pipeline.measure import PhotoFacts, PhotoToMeasure, Task, measure_photo
from assay.simulator.swatch import seam_swatch
from casework.actions.analyse_case import analyse_case
from casework.actions.remeasure import outdated, remeasure
from casework.actions.second_photo import BESIDE
from casework.actions.sign_opinion import sign_opinion
from pairs.actions.mark_photo import mark_photo
from pairs.actions.receive_photo import receive_photo
from pairs.models import Marking, Pair, Reading
from pairs.pictures import marks
from pairs.pipeline import read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import checkpoint, small_case, small_organisation


class Remeasuring(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.swatch = seam_swatch("easy", 2)
        place = {"view": "side_out", "foot": "left", "by": cls.scene.mara, "mm_per_px": cls.swatch.mm_per_px}
        drawn_on = receive_photo(pair=Pair.objects.get(label="R1"), data=jpeg(cls.swatch.rgb), **place)
        read_photo(photo=drawn_on, references={}, needs={})
        cls.photo = receive_photo(pair=cls.case.pair, data=jpeg((cls.swatch.rgb * 0.9).astype("uint8")), **place)
        cls.bar = checkpoint(cls.case, "bar")
        points = cls.swatch.marks.round(1).tolist()
        mark_photo(checkpoint=cls.bar, photo=drawn_on, points=points, origin=Marking.Origin.DRAWN)
        analyse_case(case=cls.case, user=cls.scene.mara)

    def age(self, pair, **changes):
        """As an older version left it: a reading after the others, by its method."""
        row = Reading.objects.filter(pair=pair, checkpoint=self.bar).first()
        row.pk, row.method, row.value, row.doubts = None, "seam/3", 99, []
        for name, value in changes.items():
            setattr(row, name, value)
        row.save()
        return row

    def run_it(self, executor=None, since=""):
        waiting = outdated(since)
        with executor or ThreadPoolExecutor(1) as farm:
            return waiting, remeasure(waiting, farm, 2, lambda done: None)

    def test_what_an_older_method_read_is_read_anew_beside_it_and_only_once(self):
        old = self.age(self.case.pair)
        waiting, kept = self.run_it()
        self.assertEqual((list(waiting), kept), ([self.photo.pk], 1))
        newest = Reading.objects.filter(pair=self.case.pair, checkpoint=self.bar).first()
        self.assertEqual((newest.value, newest.method), (len(self.swatch.centres), MEASURES["seam"].method))
        self.assertTrue(Reading.objects.filter(pk=old.pk).exists())
        self.assertEqual(outdated(), {})
        self.assertEqual(self.case.findings.get(checkpoint=self.bar).reading, newest)

    def test_a_person_s_word_a_signed_case_and_what_is_newer_than_asked_stay(self):
        beside = {"details": {BESIDE: self.photo.pk}, "doubts": ["photographs_disagree"]}
        told = {"refusal": {"reason": "could_not_tell", "why": "worn"}, "value": None}
        for changes in ({"doubts": [CORRECTED_BY_HAND]}, told, {**beside, "refusal": None}):
            self.age(self.case.pair, **changes)
            self.assertEqual(outdated(), {}, changes)
        self.age(self.case.pair, details={})
        self.age(self.case.pair, method="seam/7")
        self.assertEqual((len(outdated("seam/6")), len(outdated("seam/7")), len(outdated("holes/9"))), (0, 1, 0))
        sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="So.", after=None)
        self.assertEqual(outdated(), {})
        for wrong in ("seams/1", "seam", "seam/x"):
            with self.assertRaises(AssayError):
                outdated(wrong)

    def test_what_is_read_by_hand_meanwhile_is_not_read_over(self):
        self.age(self.case.pair)
        waiting = outdated()
        self.age(self.case.pair, doubts=[CORRECTED_BY_HAND], value=7)
        with ThreadPoolExecutor(1) as farm:
            self.assertEqual(remeasure(waiting, farm, 1, lambda done: None), 0)

    def test_a_cluster_of_two_workers_goes_on_where_one_is_killed_half_way(self):
        drawn = marks(self.bar, self.swatch.marks.round(1).tolist())
        job = PhotoToMeasure(jpeg(self.swatch.rgb), PhotoFacts(self.swatch.mm_per_px), (Task("bar", "seam", drawn),))
        with (
            LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50) as cluster,
            Client(cluster) as client,
        ):
            farm = client.get_executor()
            going = [farm.submit(measure_photo, job) for _ in range(12)]
            self.assertEqual(dict(going[0].result())["bar"].value, len(self.swatch.centres))
            os.kill(next(iter(cluster.workers.values())).pid, signal.SIGKILL)
            found = {dict(one.result())["bar"].value for one in going}
            self.assertEqual(found, {len(self.swatch.centres)})
            self.age(self.case.pair)
            self.assertEqual(remeasure(outdated(), farm, 2, lambda done: None), 1)

    def test_the_command_says_what_it_does_and_what_is_wrong_in_words(self):
        said = io.StringIO()
        call_command("remeasure", stdout=said)
        self.assertIn("0 readings on 0 photographs", said.getvalue())
        with self.assertRaisesMessage(CommandError, "such as seam/11"):
            call_command("remeasure", since="shoes")
        self.age(self.case.pair)
        with (
            self.assertRaisesMessage(CommandError, "No scheduler answers"),
            mock.patch("dask.distributed.Client", side_effect=OSError),
        ):
            call_command("remeasure", scheduler="tcp://127.0.0.1:1", stdout=said)
