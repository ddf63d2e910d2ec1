"""Django's runner: a data folder of its own for each parallel process, and the ten slowest tests named at the end."""

import shutil
from multiprocessing import current_process
from pathlib import Path
from time import perf_counter
from unittest import TextTestResult

from django.conf import settings
from django.db import connection
from django.test import runner
from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner, _init_worker
from django.test.utils import override_settings

SLOWEST = 10


class TimedResult(TextTestResult):
    """How long each test took, in whichever process it ran."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.seconds, self._began = {}, 0.0

    def startTest(self, test):
        self._began = perf_counter()
        super().startTest(test)

    def stopTest(self, test):
        super().stopTest(test)
        self.seconds.setdefault(test.id(), perf_counter() - self._began)

    def took(self, test, seconds: float):
        """What another process measured: told before the test's end is."""
        self.seconds[test.id()] = seconds

    def printErrors(self):
        super().printErrors()
        self.stream.writeln(f"The {SLOWEST} slowest:")
        slowest = sorted(self.seconds.items(), key=lambda item: -item[1])
        for name, seconds in slowest[:SLOWEST]:
            self.stream.writeln(f"  {seconds:5.1f} s  {name}")


class _RemoteTimedResult(RemoteTestResult):
    def startTest(self, test):
        super().startTest(test)
        self._began = perf_counter()

    def stopTest(self, test):
        self.events.append(("took", self.test_index, perf_counter() - self._began))
        super().stopTest(test)


class _RemoteRunner(RemoteTestRunner):
    resultclass = _RemoteTimedResult


def _init_own_folder(counter, *args):
    _init_worker(counter, *args)
    own = Path(settings.DATA_DIR) / f"test-process-{runner._worker_id}"
    own.mkdir(exist_ok=True)
    shutil.copy(settings.DATA_DIR / "secret-key", own)
    # Some tests start processes of their own, which a pool's workers may not as they come.
    current_process()._config["daemon"] = False
    override_settings(DATA_DIR=own, MEDIA_ROOT=own / "test-photos").enable()


class _Parallel(ParallelTestSuite):
    init_worker = _init_own_folder
    runner_class = _RemoteRunner


class Runner(DiscoverRunner):
    parallel_test_suite = _Parallel

    def setup_databases(self, **kwargs):
        clone = connection.creation._clone_test_db

        def clone_all_of_it(*args, **more):
            # What still lies in the write-ahead log would be missing from a copy of the file.
            connection.cursor().execute("PRAGMA wal_checkpoint(TRUNCATE)")
            clone(*args, **more)

        connection.creation._clone_test_db = clone_all_of_it
        return super().setup_databases(**kwargs)

    def get_resultclass(self):
        return super().get_resultclass() or TimedResult
