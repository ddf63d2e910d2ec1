"""What a worker had in hand when it was killed is taken up again, and nothing waits for ever."""

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from django.conf import settings
from django.test import TestCase
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from casework.actions.analyse_case import analyse_in_background
from casework.actions.recover_jobs import MOST_TRIES, recover_jobs
from casework.actions.sign_opinion import CannotSign, sign_opinion
from casework.models import Case
from pairs.models import Photo
from tests.support.scenes import grey_photo, small_case, small_organisation


class TakingUp(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.scene = small_organisation()
        cls.case = small_case(cls.scene)
        cls.photo = grey_photo(cls.case, Photo.State.ARRIVED)

    def begun(self, *workers: str) -> DBTaskResult:
        Case.objects.filter(pk=self.case.pk).update(runs=1, to_analyse=1, analysis_began=timezone.now())
        Photo.objects.filter(pk=self.photo.pk).update(state=Photo.State.READING)
        return DBTaskResult.objects.create(
            status="RUNNING", worker_ids=list(workers), backend_name="default",
            task_path=analyse_in_background.module_path,
            args_kwargs={"args": [self.case.pk, self.scene.mara.pk], "kwargs": {}}, started_at=timezone.now(),
        )  # fmt: skip

    def test_what_a_dead_worker_had_in_hand_is_put_back_and_a_living_one_s_is_not(self):
        task = self.begun("dead", "here")
        self.assertEqual(recover_jobs(alive={"here"}), 0)
        self.assertEqual(recover_jobs(alive={"other"}), 1)
        task.refresh_from_db()
        self.photo.refresh_from_db()
        self.assertEqual((task.status, self.photo.state), ("READY", Photo.State.ARRIVED))
        # Waiting in the queue is not forgotten: nothing is queued twice.
        self.assertEqual(recover_jobs(alive={"other"}), 0)

    def test_a_photograph_that_kills_every_worker_is_said_to_be_broken(self):
        task = self.begun(*map(str, range(MOST_TRIES)))
        recover_jobs(alive=set())
        task.refresh_from_db()
        self.photo.refresh_from_db()
        self.assertEqual((task.status, self.photo.state), ("FAILED", Photo.State.BROKEN))
        self.assertEqual(Case.objects.get(pk=self.case.pk).runs, 0)

    def test_a_photograph_that_nobody_was_asked_to_read_is_read_and_cannot_be_signed_over(self):
        with self.assertRaisesMessage(CannotSign, "still_measuring"):
            sign_opinion(case=self.case, user=self.scene.mara, verdict="undecided", words="No.", after=None)
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(recover_jobs(alive=set()), 1)
        self.photo.refresh_from_db()
        self.assertEqual(self.photo.state, Photo.State.READ)
        self.assertEqual(recover_jobs(alive=set()), 0)


class KeepingUp(TestCase):
    def test_a_killed_worker_is_replaced_and_stopping_stops_all(self):
        """Real processes, on an empty data folder."""
        with tempfile.TemporaryDirectory() as folder:
            env = os.environ | {"WAHRHEIT_DATA": folder, "WAHRHEIT_WORKERS": "1", "DEBUG": "1"}
            manage = [sys.executable, str(Path(settings.BASE_DIR) / "manage.py")]
            subprocess.run([*manage, "migrate", "--verbosity", "0"], env=env, check=True)
            keeper = subprocess.Popen([*manage, "work"], env=env, stderr=subprocess.PIPE)
            try:
                first = self.worker_of(keeper.pid)
                os.kill(first, signal.SIGKILL)
                second = self.worker_of(keeper.pid, other_than=first)
                self.assertNotEqual(first, second)
            finally:
                keeper.terminate()
                keeper.communicate(timeout=20)
            self.assertTrue(self.gone(second))
            # One whose keeper was gone before it had begun ends as well: it would hold the others up for ever.
            subprocess.run([*manage, "work", "--one", "lone", "999999"], env=env, timeout=60, check=False)

    def gone(self, pid: int) -> bool:
        for _ in range(300):
            if not Path(f"/proc/{pid}").exists():
                return True
            time.sleep(0.1)
        return False

    def worker_of(self, keeper: int, other_than: int = 0) -> int:
        children = Path(f"/proc/{keeper}/task/{keeper}/children")
        for _ in range(200):
            found = [int(one) for one in children.read_text().split() if int(one) != other_than]
            if found:
                return found[0]
            time.sleep(0.1)
        return self.fail("no worker")
