"""Take every rights check out of the code, one at a time, and see whether a test notices: ``make doors-mutants``.

A mutant is one function with one check less, put in the place of the real one in a process of its own. Prints what
nobody noticed, and ends with 1 where there is any.
"""

import ast
import importlib
import inspect
import io
import os
import sys
from collections.abc import Iterator
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
ROOMS = ("casework", "pairs", "library", "reports")
TESTS = ["tests.test_rights", "tests.test_doors"]
ASKS = ("must", "must_write", "must_own")
OF_ORGANISATION = ("organisation", "pair__organisation", "organisation__members", "case__organisation__members")
NARROWS = ("filter", "get", "get_object_or_404", "of_generation")
AT_ONCE = 4


@dataclass(frozen=True, slots=True)
class Mutant:
    """One check less: where it stood, and the code that lacks it."""

    module: str
    function: str
    line: int
    without: str
    code: object


def mutants() -> Iterator[Mutant]:
    """Every rights check of the rooms, each taken out once."""
    for room in ROOMS:
        for path in sorted((ROOT / room).rglob("*.py")):
            if "migrations" not in path.parts:
                yield from _of_file(path)


def _of_file(path: Path) -> Iterator[Mutant]:
    module = ".".join(path.relative_to(ROOT).with_suffix("").parts)
    source = path.read_text()
    tree = ast.parse(source)
    for function in (node for node in tree.body if isinstance(node, ast.FunctionDef)):
        for at, (node, kind) in enumerate(_checks(function, path)):
            copy = ast.parse(source)
            mine = next(one for one in copy.body if getattr(one, "name", "") == function.name)
            target, _ = list(_checks(mine, path))[at]
            _take_out(mine, target, kind)
            # What wraps it stays as it is.
            mine.decorator_list = []
            made = compile(ast.fix_missing_locations(copy), str(path), "exec")
            code = next(co_const for co_const in made.co_consts if getattr(co_const, "co_name", "") == function.name)
            said = kind if isinstance(kind, str) else f"{kind[0]}={kind[1]}"
            yield Mutant(module, function.name, node.lineno, said, code)


def _checks(function: ast.FunctionDef, path: Path) -> Iterator[tuple]:
    """(node, what it is) in the order of the text."""
    in_view = (
        path.name in ("views.py", "check_views.py")
        or path.parent.name == "library_screens"
        or path.stem == "guide_sheet"
    )
    for node in ast.walk(function):
        if isinstance(node, ast.Expr) and _called(node.value) in ASKS:
            yield node, "asks"
        if isinstance(node, ast.If) and "has_perm" in ast.dump(node.test) and isinstance(node.body[0], ast.Raise):
            yield node, "asks"
        if not isinstance(node, ast.Call) or not in_view:
            continue
        if _called(node) == "open_case_for":
            yield node, "signed"
        if _called(node) in ("open_case_for", "case_for"):
            yield node, "whose"
        if _called(node) == "visible_to":
            yield node, "visible"
        if _called(node) in NARROWS:
            yield from ((node, ("without", keyword.arg)) for keyword in node.keywords if keyword.arg in OF_ORGANISATION)


def _called(node) -> str:
    if not isinstance(node, ast.Call):
        return ""
    return node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")


def _take_out(function: ast.FunctionDef, target, kind) -> None:
    if kind == "asks":
        for node in ast.walk(function):
            for name in ("body", "orelse"):
                block = getattr(node, name, None)
                if isinstance(block, list) and target in block:
                    block[block.index(target)] = ast.Pass()
    elif kind == "signed":
        target.func = ast.Name("case_for", ast.Load())
    elif kind == "whose":
        target.func = ast.Name("_anybody_s_case", ast.Load())
    elif kind == "visible":
        target.func = ast.Name("_every_release", ast.Load())
    else:
        target.keywords = [keyword for keyword in target.keywords if keyword.arg != kind[1]]


def _anybody_s_case(_user, number):
    from casework.models import Case

    return Case.objects.select_related("pair__release__shoe_model__maker", "reference", "organisation").get(
        number=number
    )


def _every_release(_organisation):
    from library.models import Release

    return Release.objects.all()


def _put_in(mutant: Mutant) -> None:
    from casework.access import case_for

    module = importlib.import_module(mutant.module)
    known = {"_anybody_s_case": _anybody_s_case, "_every_release": _every_release, "case_for": case_for}
    for name, helper in known.items():
        module.__dict__.setdefault(name, helper)
    inspect.unwrap(getattr(module, mutant.function)).__code__ = mutant.code


def _noticed(mutant: Mutant | None) -> bool:
    """Whether a test fails, in this process."""
    from django.test.runner import DiscoverRunner

    if mutant:
        _put_in(mutant)
    runner = DiscoverRunner(verbosity=0, failfast=True, interactive=False)
    suite = runner.build_suite(TESTS)
    with redirect_stdout(io.StringIO()), redirect_stderr(io.StringIO()):
        result = runner.run_suite(suite)
    return bool(result.failures or result.errors)


def main() -> int:
    """Run them all, a few at once; returns how many nobody noticed, or -1 where the tests fail by themselves."""
    import django

    sys.argv[1:] = ["test"]  # settings for tests: no manifest of files, no queue, photographs of their own
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "wahrheit.settings")
    django.setup()
    from django.db import connection
    from django.test.utils import setup_databases, setup_test_environment

    # In memory: every process has a copy of its own, and none waits for another.
    connection.settings_dict["TEST"]["NAME"] = None
    setup_test_environment()
    setup_databases(verbosity=0, interactive=False)
    found = list(mutants())
    if _forked(None):
        print("The tests fail without any mutant.")
        return -1
    missed, waiting = [], {}
    for mutant in found:
        while len(waiting) >= AT_ONCE:
            _collect(waiting, missed)
        waiting[_fork(mutant)] = mutant
    while waiting:
        _collect(waiting, missed)
    for mutant in sorted(missed, key=lambda one: (one.module, one.line)):
        print(f"nobody noticed: {mutant.module}:{mutant.line} {mutant.function}, {mutant.without}")
    print(f"{len(found)} rights checks taken out, {len(found) - len(missed)} noticed")
    return len(missed)


def _fork(mutant: Mutant | None) -> int:
    child = os.fork()
    if not child:
        status = 2
        try:
            status = 1 if _noticed(mutant) else 0
        finally:
            os._exit(status)
    return child


def _forked(mutant: Mutant | None) -> bool:
    _, status = os.waitpid(_fork(mutant), 0)
    return os.waitstatus_to_exitcode(status) != 0


def _collect(waiting: dict, missed: list) -> None:
    child, status = os.wait()
    mutant = waiting.pop(child)
    if os.waitstatus_to_exitcode(status) == 0:
        missed.append(mutant)


if __name__ == "__main__":
    sys.exit(1 if main() else 0)
