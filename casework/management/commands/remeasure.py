"""Read all photographs anew with newer methods, on many processes or machines."""

from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from multiprocessing import get_context

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from assay.errors import AssayError
from casework import wording
from casework.actions.remeasure import outdated, remeasure


class Command(BaseCommand):
    help = "Read photographs anew whose readings an older method made; what was signed stays. Run again, it goes on."

    def add_arguments(self, parser):
        parser.add_argument("--since", default="", help="only this measure up to this version, such as seam/11")
        parser.add_argument("--scheduler", default="", help="a Dask scheduler, such as tcp://10.0.0.5:8786")
        parser.add_argument("--processes", type=int, default=settings.WORKERS, help="local ones, without a scheduler")

    def handle(self, *args, **options):
        try:
            waiting = outdated(options["since"])
        except AssayError as error:
            raise CommandError(wording.of_error(error)) from error
        readings = sum(map(len, waiting.values()))
        self.stdout.write(f"{readings} readings on {len(waiting)} photographs were made by older methods")
        if not waiting:
            return
        with farm(options["scheduler"], options["processes"]) as (executor, processes):
            try:
                kept = remeasure(waiting, executor, processes, lambda done: self._say(done, len(waiting)))
            except BrokenProcessPool as error:
                raise CommandError(
                    "A process was killed, for want of memory perhaps. Run it again: it goes on."
                ) from error
        self.stdout.write(f"\n{kept} readings kept beside the old ones")

    def _say(self, done: int, of: int) -> None:
        self.stdout.write(f"\r{done} of {of} photographs", ending="")
        self.stdout.flush()


@contextmanager
def farm(scheduler: str, processes: int):
    """(an executor, how many processes it has): a Dask cluster's, or local processes."""
    if not scheduler:
        with ProcessPoolExecutor(processes, mp_context=get_context("spawn")) as executor:
            yield executor, processes
        return
    try:
        from dask.distributed import Client  # noqa: PLC0415 - an extra
    except ImportError as error:
        raise CommandError("A scheduler needs the extra “farm”: pip install 'wahrheit[farm]'.") from error
    try:
        client = Client(scheduler, timeout=10)
    except OSError as error:
        raise CommandError(f"No scheduler answers at {scheduler}.") from error
    with client:
        yield client.get_executor(), max(1, len(client.scheduler_info()["workers"]))
