"""Django's runner, which also names the ten slowest tests."""

from time import perf_counter
from unittest import TextTestResult

from django.test.runner import DiscoverRunner

SLOWEST = 10


class TimedResult(TextTestResult):
    """How long each test took, its own set-up included."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.took, self._began = [], 0.0

    def startTest(self, test):
        self._began = perf_counter()
        super().startTest(test)

    def stopTest(self, test):
        super().stopTest(test)
        self.took.append((perf_counter() - self._began, test.id()))

    def printErrors(self):
        super().printErrors()
        self.stream.writeln(f"The {SLOWEST} slowest:")
        for seconds, name in sorted(self.took, reverse=True)[:SLOWEST]:
            self.stream.writeln(f"  {seconds:5.1f} s  {name}")


class Runner(DiscoverRunner):
    def get_resultclass(self):
        return super().get_resultclass() or TimedResult
