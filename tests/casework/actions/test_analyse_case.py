"""Measuring in the background: what is kept, what is done again, what a broken run leaves."""

from dataclasses import replace
from datetime import timedelta
from unittest import mock

import numpy as np
from django.test import TestCase
from django.utils import timezone

from assay.imaging.opening import decode
from assay.judge.judgement import UNSURE_COUNT
from assay.measure.registry import MEASURES
from assay.simulator.swatch import seam_swatch
from casework.actions import work_checkpoint as work
from casework.actions.analyse_case import _keep, analyse_case, analyse_in_background, request_analysis
from casework.grading import grading_context
from casework.models import Case
from casework.queue import ended, stalled
from library.models import Checkpoint
from pairs.actions.mark_photo import mark_photo
from pairs.actions.receive_photo import receive_photo
from pairs.models import Marking, Pair, Photo, Reading
from pairs.pictures import pixels
from pairs.pipeline import read_photo
from tests.support.pictures import jpeg
from tests.support.scenes import checkpoint, finding, small_case, small_organisation


class Analysing(TestCase):
    """A swatch with one row stands for the shoe; the suspect's photo is the same one, a little darker."""

    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.swatch = seam_swatch("easy", 2)
        reference = Pair.objects.get(label="R1")
        place = {"view": "side_out", "foot": "left", "by": cls.scene.mara, "mm_per_px": cls.swatch.mm_per_px}
        cls.drawn_on = receive_photo(pair=reference, data=jpeg(cls.swatch.rgb), **place)
        read_photo(photo=cls.drawn_on, references={}, needs={})
        darker = (cls.swatch.rgb * 0.9).astype(np.uint8)
        cls.photo = receive_photo(pair=cls.case.pair, data=jpeg(darker), **place)
        cls.bar = checkpoint(cls.case, "bar")
        points = cls.swatch.marks.round(1).tolist()
        mark_photo(checkpoint=cls.bar, photo=cls.drawn_on, points=points, origin=Marking.Origin.DRAWN)

    def run_it(self):
        analyse_case(case=self.case, user=self.scene.mara)
        return finding(self.case, "bar").reading

    def test_marks_are_carried_over_and_the_row_is_counted(self):
        reading = self.run_it()
        self.assertEqual(reading.value, len(self.swatch.centres))
        marking = Marking.objects.get(photo=self.photo)
        self.assertEqual(marking.origin, "carried")
        self.assertLess(np.abs(np.array(marking.points) - self.swatch.marks).max(), 3)

    def test_two_photographs_of_a_view_that_disagree_say_so_and_accuse_nobody(self):
        blotted, (x, y) = self.swatch.rgb.copy(), self.swatch.centres[len(self.swatch.centres) // 2]
        high, left = int(y) - 26, int(x) - 9
        blotted[high : high + 52, left : left + 18] = self.swatch.rgb[high + 70 : high + 122, left : left + 18]
        place = {"view": "side_out", "foot": "left", "by": self.scene.mara, "mm_per_px": self.swatch.mm_per_px}
        later = receive_photo(pair=self.case.pair, data=jpeg(blotted), **place)
        reading, true = self.run_it(), len(self.swatch.centres)
        self.assertEqual((reading.photo, reading.value), (later, true - 1))
        self.assertIn("photographs_disagree", reading.doubts)
        self.assertGreaterEqual(reading.uncertainty, UNSURE_COUNT)
        kept = Reading.objects.filter(pair=self.case.pair).count()
        self.assertEqual(self.run_it(), reading, "not read again and again")
        self.assertEqual(Reading.objects.filter(pair=self.case.pair).count(), kept)
        self.case.pair.photos.filter(pk=later.pk).update(set_aside=True)
        reading = self.run_it()
        self.assertEqual((reading.value, "photographs_disagree" in reading.doubts), (true, False))

    def test_two_photographs_of_a_view_that_agree_change_nothing_but_are_held_beside_each_other(self):
        place = {"view": "side_out", "foot": "left", "by": self.scene.mara, "mm_per_px": self.swatch.mm_per_px}
        receive_photo(pair=self.case.pair, data=jpeg((self.swatch.rgb * 0.8).astype(np.uint8)), **place)
        reading = self.run_it()
        self.assertEqual(reading.value, len(self.swatch.centres))
        self.assertNotIn("photographs_disagree", reading.doubts)
        self.assertEqual(reading.details["beside"], self.photo.pk)

    def test_each_photograph_is_decoded_once(self):
        for part in (0.8, 0.7):
            other = (self.swatch.rgb * part).astype(np.uint8)
            receive_photo(pair=self.case.pair, data=jpeg(other), by=self.scene.mara)
        pixels.cache_clear()
        with mock.patch("pairs.pictures.decode", wraps=decode) as decoded:
            self.run_it()
        self.assertEqual(decoded.call_count, 3)
        self.assertEqual({photo.state for photo in self.case.pair.photos.all()}, {"read"})

    def test_a_check_drawn_while_a_run_is_under_way_is_measured_and_graded_as_well(self):
        before = grading_context(self.case)
        later = self.case.pair.release.checkpoints.get(pk=self.bar.pk)
        later.pk, later.key, later.position = None, "bar-again", 99
        later.save()
        points = self.swatch.marks.round(1).tolist()
        mark_photo(checkpoint=later, photo=self.drawn_on, points=points, origin=Marking.Origin.DRAWN)
        read_photo(photo=self.photo, references={}, needs={})
        with mock.patch(
            "casework.actions.analyse_case.grading_context", side_effect=[before, grading_context(self.case)]
        ):
            self.run_it()
        self.assertEqual(finding(self.case, "bar-again").reading.value, len(self.swatch.centres))

    def test_what_a_person_reads_meanwhile_is_not_read_over(self):
        def read_by_hand(case, done, more=0):
            if more:
                work.cannot_tell(case=self.case, checkpoint=self.bar, user=self.scene.mara, why="worn")

        with mock.patch("casework.queue.report", side_effect=read_by_hand):
            reading = self.run_it()
        self.assertEqual(reading.refusal["reason"], "could_not_tell")
        self.assertEqual(Reading.objects.filter(pair=self.case.pair, checkpoint=self.bar).count(), 1)

    def test_a_check_taken_off_the_guide_meanwhile_does_not_come_back(self):
        def withdrawn(case, done, more=0):
            Checkpoint.objects.filter(pk=self.bar.pk).update(withdrawn=True)

        with mock.patch("casework.queue.report", side_effect=withdrawn):
            analyse_case(case=self.case, user=self.scene.mara)
        self.assertFalse(Reading.objects.filter(pair=self.case.pair, checkpoint=self.bar).exists())

    def test_the_last_of_several_runs_does_what_is_left_and_ends_it(self):
        Case.objects.filter(pk=self.case.pk).update(runs=2, to_analyse=1)
        self.assertEqual(self.run_it().value, len(self.swatch.centres))
        self.case.refresh_from_db()
        self.assertEqual((self.case.runs, self.case.to_analyse), (1, 2))
        # Between a run's last look and its end another photograph may arrive.
        late = []

        def arriving(case, more_to_do):
            if not late:
                other = jpeg((self.swatch.rgb * 0.7).astype(np.uint8))
                late.append(receive_photo(pair=case.pair, data=other, by=self.scene.mara))
            return ended(case, more_to_do)

        with mock.patch("casework.queue.ended", side_effect=arriving):
            self.run_it()
        self.case.refresh_from_db()
        late[0].refresh_from_db()
        self.assertEqual((self.case.runs, self.case.to_analyse, late[0].state), (0, 0, "read"))

    def test_a_photograph_sorted_while_the_last_run_is_past_it_is_measured_by_that_run(self):
        read_photo(photo=self.photo, references={}, needs={})
        Photo.objects.filter(pk=self.photo.pk).update(view="", foot="")

        def sorted_late(pair):
            pair.photos.update(view="side_out", foot="left")
            return []

        with mock.patch("casework.actions.analyse_case.unread_print", side_effect=sorted_late):
            reading = self.run_it()
        self.assertEqual(reading.value, len(self.swatch.centres))

    def test_of_two_photographs_of_a_view_measured_at_once_the_later_ones_reading_holds(self):
        first = self.run_it()
        second = Reading(pair=self.case.pair, checkpoint=self.bar, photo=self.photo, value=9, taken_by=self.scene.mara)
        later = receive_photo(pair=self.case.pair, data=jpeg(self.swatch.rgb), by=self.scene.mara)
        third = Reading(pair=self.case.pair, checkpoint=self.bar, photo=later, value=8, taken_by=self.scene.mara)
        for one in (second, third, second):
            _keep(self.case, grading_context(self.case), [one], since=first.pk - 1)
        self.assertEqual(
            [one.value for one in Reading.objects.filter(pair=self.case.pair).order_by("pk")], [first.value, 8]
        )

    def test_of_two_labels_the_bars_of_the_one_in_use_stand(self):
        """The newest is read first; set aside, it gives way to the one before."""
        labels = []
        for number, part in (("4006381333931", 0.4), ("2004412095003", 0.3)):
            other = jpeg((self.swatch.rgb * part).astype(np.uint8))
            labels.append(receive_photo(pair=self.case.pair, data=other, by=self.scene.mara, view="box_label"))
            codes = [{"text": number, "gtin14": f"0{number}"}]
            self.case.pair.photos.filter(pk=labels[-1].pk).update(state="read", codes=codes)
        scanned = self.case.pair.inscriptions.filter(place="box.scanned")
        for _ in range(2):
            self.run_it()
            self.assertEqual([kept.text for kept in scanned.all()], ["2004412095003"])
        self.case.pair.photos.filter(pk=labels[-1].pk).update(set_aside=True)
        self.run_it()
        self.assertEqual([kept.text for kept in scanned.all()], ["4006381333931", "2004412095003"])

    def test_no_more_runs_are_queued_than_there_are_workers_or_photographs(self):
        queued = []
        for n in (1, 2, 3):
            other = jpeg((self.swatch.rgb * 0.5 + 20 * n).astype(np.uint8))
            receive_photo(pair=self.case.pair, data=other, by=self.scene.mara)
            with self.captureOnCommitCallbacks() as more, self.settings(WORKERS=2):
                request_analysis(case=self.case, user=self.scene.mara)
            queued.append(len(more))
        self.case.refresh_from_db()
        self.assertEqual((queued, self.case.runs), ([2, 0, 0], 2))

    def test_a_label_found_out_once_all_is_measured_still_has_its_print_read(self):
        self.run_it()
        tag = receive_photo(pair=self.case.pair, data=jpeg(self.swatch.rgb[::-1]), by=self.scene.mara)
        read_photo(photo=tag, references={}, needs={})
        Photo.objects.filter(pk=tag.pk).update(view="size_tag", foot="left")
        with mock.patch("pairs.print.is_installed", return_value=True), self.captureOnCommitCallbacks() as queued:
            request_analysis(case=self.case, user=self.scene.mara)
        self.assertEqual(len(queued), 1)

    def test_a_run_that_breaks_makes_room_for_another(self):
        Case.objects.filter(pk=self.case.pk).update(runs=1, to_analyse=1)
        broken = mock.patch("casework.actions.analyse_case.read_photo", side_effect=MemoryError)
        with broken, self.assertRaises(MemoryError):
            analyse_in_background.func(self.case.pk, self.scene.mara.pk)
        self.case.refresh_from_db()
        self.assertEqual(self.case.runs, 0)

    def test_a_correction_survives_a_second_run_and_keeps_the_first_reading(self):
        first = self.run_it()
        centres = [[float(x), float(y)] for x, y in self.swatch.centres[:-1]]
        work.correct(case=self.case, checkpoint=self.bar, user=self.scene.mara, centres=centres)
        again = self.run_it()
        self.assertEqual((again.value, again.corrects), (first.value - 1, first))
        self.assertEqual(Reading.objects.filter(pair=self.case.pair, checkpoint=self.bar).count(), 2)

    def test_an_older_methods_reading_is_taken_anew_and_kept_but_a_persons_is_left(self):
        first = self.run_it()
        with mock.patch.dict(MEASURES, seam=replace(MEASURES["seam"], version=99)):
            newer = self.run_it()
            self.assertEqual(newer.value, first.value)
            self.assertEqual(Reading.objects.filter(pair=self.case.pair, checkpoint=self.bar).count(), 2)
            nine = self.swatch.centres[:9].tolist()
            work.correct(case=self.case, checkpoint=self.bar, user=self.scene.mara, centres=nine)
            self.assertEqual(self.run_it().value, 9)

    def test_moved_marks_are_measured_there_and_stay(self):
        self.run_it()
        half = self.swatch.marks[: len(self.swatch.marks) // 2 + 1].tolist()
        work.move_marks(case=self.case, checkpoint=self.bar, user=self.scene.mara, points=half)
        self.assertLess(finding(self.case, "bar").reading.value, len(self.swatch.centres) - 3)
        self.assertEqual(Marking.objects.get(photo=self.photo).origin, "moved")

    def test_asking_counts_what_waits_and_a_run_given_up_is_noticed(self):
        with self.captureOnCommitCallbacks() as queued:
            request_analysis(case=self.case, user=self.scene.mara)
        self.case.refresh_from_db()
        self.assertEqual((self.case.to_analyse, len(queued), stalled(self.case)), (1, 1, False))
        Case.objects.filter(pk=self.case.pk).update(analysis_began=timezone.now() - timedelta(minutes=4))
        self.case.refresh_from_db()
        self.assertTrue(stalled(self.case))
        self.run_it()
        with self.captureOnCommitCallbacks() as queued:
            request_analysis(case=self.case, user=self.scene.mara)
        self.case.refresh_from_db()
        self.assertEqual((self.case.to_analyse, queued), (0, []))
