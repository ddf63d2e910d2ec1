"""Questions of a guide: from the catalogue, changed, or written anew; and what verified pairs answered to them."""

from collections.abc import Mapping

from django.core.files.base import ContentFile
from django.db import transaction
from django.utils.text import slugify

from assay.catalogue import catalogue
from assay.errors import AssayError
from assay.imaging.opening import check_bytes, receive, smaller
from assay.judge.judgement import Kind
from casework.grading import regrade
from casework.ledger import note_of_organisation
from casework.models import Case
from library.models import AnswerPhoto, Checkpoint, Release
from library.questions import WORTH_PAIRS, fields_of
from library.writers import MAY_CHECK, must, must_write
from pairs.actions.draw_checkpoint import free_key, place_in
from pairs.actions.take_reading import SAID, say
from pairs.models import Organisation, Pair, Standing
from pairs.queries import latest_readings

EXAMPLE_PX = 640
"""Longer side of an answer's photograph, px."""
RARELY = 0.02
"""How often retail pairs give an answer that its writer calls rare, where nobody has counted."""
FEWEST = 2


@transaction.atomic
def add_question(*, release: Release, key: str, organisation: Organisation, user) -> Checkpoint:
    """One question of the catalogue. Raises AssayError ``not_allowed``, ``bad_question``, ``question_exists``."""
    must_write(user, release)
    question = next((one for one in catalogue() if one.key == key), None)
    if question is None:
        raise AssayError("bad_question", key=key[:40], what="it is not in the catalogue")
    if Checkpoint.every.filter(release=release, key=key).exists():
        raise AssayError("question_exists", name=question.name)
    return _kept(release, organisation, user, fields_of(question))


@transaction.atomic
def write_question(*, release: Release, organisation: Organisation, user, given: Mapping) -> Checkpoint:
    """A question of the shop's own. ``given``: name, instruction, section, group, caution, in_hand, unworn, answers
    [(sentence, whether retail seldom gives it)]. Raises AssayError ``not_allowed``, ``bad_question``."""
    must_write(user, release)
    answers, rare = _answers(given)
    applies = [{"fact": "in_hand", "is": [True]}] if given["in_hand"] else []
    applies += [{"fact": "condition", "is": ["deadstock", "tried_on"]}] if given["unworn"] else []
    fields = {
        "key": free_key(release, given["name"]),
        "group": slugify(given["group"] or given["name"])[:60],
        "kind": Kind.ANSWER.value,
        "unit": "answer",
        "minutes": 0.3,
        "applies_when": applies,
        "answers": answers,
        "prior": {"pairs": WORTH_PAIRS, "rare": rare},
        **{name: given[name] for name in ("name", "instruction", "section", "caution")},
    }
    return _kept(release, organisation, user, fields)


@transaction.atomic
def change_question(*, checkpoint: Checkpoint, organisation: Organisation, user, given: Mapping) -> None:
    """Its words, and its answers' sentences; answers that pairs gave keep their keys.

    Raises AssayError ``not_allowed``, ``bad_question``, ``signed_elsewhere`` where a signed case stands on it.
    """
    must_write(user, checkpoint.release)
    if Case.objects.filter(findings__checkpoint=checkpoint).exclude(signed_at=None).exists():
        raise AssayError("signed_elsewhere")
    answers, rare = _answers(given, known=checkpoint.answers)
    # How seldom an answer is stays as it was believed.
    rare |= {key: often for key, often in checkpoint.prior.get("rare", {}).items() if key in rare}
    used = set(checkpoint.readings.exclude(value=None).values_list("value", flat=True))
    if lost := used - {key for key, *_ in answers}:
        words = next((answer[1] for answer in checkpoint.answers if answer[0] in lost), "")
        raise AssayError("bad_question", key=checkpoint.name, what=f"pairs gave the answer “{words}” already: keep it")
    for name in ("name", "instruction", "caution"):
        setattr(checkpoint, name, given[name])
    checkpoint.answers = answers
    checkpoint.prior = {**checkpoint.prior, "rare": rare}
    checkpoint.clean()
    checkpoint.save()
    _regrade(checkpoint.release, organisation)


@transaction.atomic
def answer_for_retail(*, checkpoint: Checkpoint, pair: Pair, choice: str, user) -> None:
    """What a verified pair answers. Raises AssayError ``not_allowed``, ``unknown_answer``."""
    must(user, MAY_CHECK)
    if pair.standing != Standing.RETAIL or choice not in {key for key, *_ in checkpoint.answers}:
        raise AssayError("unknown_answer")
    old = latest_readings([pair], checkpoints=[checkpoint]).get((pair.pk, checkpoint.pk))
    say(checkpoint=checkpoint, pair=pair, value=choice, method=SAID, by=user, corrects=old)
    _regrade(checkpoint.release, pair.organisation)
    note_of_organisation(
        pair.organisation, user, "retail_answered", pair=pair.label, check=checkpoint.key, value=choice
    )


def show_answer(*, checkpoint: Checkpoint, answer: str, upload, organisation: Organisation, user) -> None:
    """A photograph of what an answer looks like, in the place of its drawing; without a file, the drawing again.

    Raises CannotOpen, AssayError ``not_allowed``, ``unknown_answer``.
    """
    must_write(user, checkpoint.release)
    if answer not in {key for key, *_ in checkpoint.answers}:
        raise AssayError("unknown_answer")
    small = None
    if upload is not None:
        check_bytes(upload.size)
        small = smaller(receive(upload.read()).stored, EXAMPLE_PX)
    with transaction.atomic():
        AnswerPhoto.objects.filter(checkpoint=checkpoint, answer=answer).delete()
        if small is not None:
            shown = AnswerPhoto(checkpoint=checkpoint, answer=answer)
            shown.picture.save("example.jpg", ContentFile(small), save=False)
            shown.save()
        note_of_organisation(organisation, user, "example_added", check=checkpoint.key, value=answer)


def _answers(given: Mapping, known=()) -> tuple[list, dict]:
    """Answers [key, sentence, drawing] and the rare ones' frequencies; sentences kept, or by place, keep their keys."""
    if len(given["answers"]) < FEWEST:
        raise AssayError("bad_question", key=given["name"], what="it needs two answers, each on its own line")
    by_words = {answer[1]: answer for answer in known}
    answers: list = []
    rare: dict = {}
    for n, (sentence, seldom) in enumerate(given["answers"]):
        old = by_words.get(sentence) or (known[n] if n < len(known) and known[n][1] not in _said(given) else None)
        key = old[0] if old else slugify(sentence)[:40] or f"answer-{n + 1}"
        answers.append([key, sentence[:160], *(old[2:] if old else [])])
        if seldom:
            rare[key] = RARELY
    if len({key for key, *_ in answers}) != len(answers) or len(rare) == len(answers):
        what = "two answers are alike" if len(rare) < len(answers) else "retail must give one of them usually"
        raise AssayError("bad_question", key=given["name"], what=what)
    return answers, rare


def _said(given: Mapping) -> set[str]:
    return {sentence for sentence, _ in given["answers"]}


def _kept(release: Release, organisation: Organisation, user, fields: dict) -> Checkpoint:
    made = Checkpoint(release=release, position=place_in(release, fields["section"]), **fields)
    made.clean()
    made.save()
    _regrade(release, organisation)
    note_of_organisation(organisation, user, "question_added", check=made.key)
    return made


def _regrade(release: Release, organisation: Organisation) -> None:
    for case in Case.objects.filter(organisation=organisation, pair__release__in=release.siblings, signed_at=None):
        regrade(case)
