"""Keep workers up: start as many as there are cores, restart those that end, and put back what they had in hand."""

import fcntl
import os
import resource
import signal
import subprocess
import sys
import threading
import time
from uuid import uuid4

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import DatabaseError, close_old_connections

from casework.actions.recover_jobs import recover_jobs

EVERY_S = 2.0
# A worker that ends at once is not started again at once.
REST_S = 5.0
# What a worker is given to finish, when all stop.
GRACE_S = 10.0


class Command(BaseCommand):
    # Checks load every page: a worker needs none of them, and starts in half the time.
    requires_system_checks = []
    help = "Starts WAHRHEIT_WORKERS workers (one a core) and keeps them up; one such command a data folder."

    def add_arguments(self, parser):
        parser.add_argument(
            "--one", nargs=2, metavar=("NAME", "PID"), help="one worker of that name, while its parent lives"
        )

    def handle(self, one=(), **_):
        if one:
            _work(one[0], int(one[1]))
            return
        # Pages go first.
        os.nice(10)
        # Workers hold the lock with us: those of a command that was killed finish what they do, and are never doubled.
        with (settings.DATA_DIR / "work.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
            workers: dict[str, subprocess.Popen] = {}
            try:
                self._keep_up(workers, lock.fileno())
            except KeyboardInterrupt:
                pass
            finally:
                _stop(workers)

    def _keep_up(self, workers: dict, lock: int) -> None:
        began = dict.fromkeys(range(settings.WORKERS), 0.0)
        while True:
            for name in [name for name, one in workers.items() if one.poll() is not None]:
                self.stderr.write(f"A worker ended ({workers.pop(name).returncode}); another one takes its place.")
            ready = [n for n, at in began.items() if time.monotonic() - at > REST_S]
            for n in ready[: settings.WORKERS - len(workers)]:
                began[n] = time.monotonic()
                name = f"{n}-{uuid4().hex}"
                workers[name] = _started(name, lock)
            try:
                recover_jobs(alive=set(workers))
            except DatabaseError as error:
                self.stderr.write(f"The database cannot be asked now: {error}")
            close_old_connections()
            time.sleep(EVERY_S)


def _work(name: str, parent: int) -> None:
    """Do what the queue holds, until told to stop, or left alone by the command that began it. A photograph that asks
    for more memory than a worker may have fails by itself, and takes nothing else with it."""
    most = int(settings.WORKER_GB * 2**30)
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    threading.Thread(target=_end_when_left_alone, args=[parent], daemon=True).start()
    call_command("db_worker", interval=0.2, queue_name="*", verbosity=0, worker_id=name)


def _end_when_left_alone(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(1)
    os.kill(os.getpid(), signal.SIGTERM)


def _started(name: str, lock: int) -> subprocess.Popen:
    given = [sys.executable, sys.argv[0], "work", "--one", name, str(os.getpid())]
    return subprocess.Popen(given, pass_fds=[lock], start_new_session=True)  # noqa: S603


def _stop(workers: dict) -> None:
    for worker in workers.values():
        worker.terminate()
    ends = time.monotonic() + GRACE_S
    for worker in workers.values():
        try:
            worker.wait(max(0.1, ends - time.monotonic()))
        except subprocess.TimeoutExpired:
            worker.kill()
            worker.wait()
