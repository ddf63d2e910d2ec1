"""What the bench and the verdict page say of one finding: the reading, what retail does, and what to do about it."""

from random import Random

from assay.errors import CannotJudge
from assay.judge.grade import Grade
from assay.judge.judgement import UNSURE_COUNT, Kind, spread_of
from assay.judge.reference_comparison import stands_still
from casework import paper_wording, wording
from casework.bench.drawings import signs, spread_drawing
from casework.figures import MOST_DECIMALS, THIN, decimals, figure, plain, usual_decimals
from casework.grading import VOID, is_pending
from casework.guides.wording import WORDS
from casework.retail import from_unfit_photo, prior_of, quantity_of, uncertainty_of


def panel(finding) -> dict:
    """Reading, what retail does, grade, words."""
    checkpoint, reading = finding.checkpoint, finding.reading
    value = shown_value(finding)
    # What retail does would lead the answer.
    hidden = checkpoint.kind == Kind.ANSWER and reading is None
    names = answer_names(checkpoint)
    shown = {
        "value": shown_number(finding, names),
        "retail": ("?", "shown once you have answered") if hidden else retail_words(finding, names),
        "pairs": len(finding.retail),
        "uncertainty": _uncertainty_words(finding) if value is not None else "",
        "means": wording.GRADE_MEANS[finding.grade],
        "grade": wording.GRADE_WORDS[finding.grade],
        "doubts": [wording.DOUBTS[doubt] for doubt in reading.doubts if doubt in wording.DOUBTS] if reading else [],
        "not_compared": paper_wording.why_not_compared(finding),
        "is_void": finding.reason == VOID,
        "lent": _lent_words(finding),
        "when": paper_wording.condition_words(checkpoint.applies_when),
        "slips": [*paper_wording.slip_words(reading), *_still(finding)],
        "lines": (reading.details.get("lines", []) if reading else []),
        "signs": _signs(finding),
        "chosen": value,
        "refusal": refusal_words(reading),
        "drawing": None,
        "unlike": _not_compared_words(finding),
        **_presented(finding),
        "answers": _answers(finding),
        "often": "" if finding.tail_probability in (None, 1.0) else wording.how_often(finding.tail_probability),
        "asks": _asks(finding),
    }
    if hidden:
        return shown
    try:
        spread = spread_of(Kind(checkpoint.kind), [v for _, v in finding.retail], prior_of(checkpoint))
        shown["drawing"] = spread_drawing(spread, value, finding.retail, names)
    except CannotJudge:
        pass
    return shown


def _answers(finding) -> list[tuple]:
    """Key, sentence, and what it looks like: a photograph, or the name of a drawing. Pictures stand in an order of the
    case's own, so that their place does not tell which is retail's. One query."""
    checkpoint = finding.checkpoint
    if not checkpoint.answers:
        return []
    photos = {example.answer: example for example in checkpoint.examples.all()}
    shown = [(key, words, photos.get(key) or (*rest, "")[0]) for key, words, *rest in checkpoint.answers]
    if all(picture for *_, picture in shown):
        Random(f"{finding.case_id} {checkpoint.key}").shuffle(shown)  # noqa: S311  no secret
    return shown


def answer_names(checkpoint) -> dict[str, str]:
    """Answers by key."""
    return {key: words for key, words, *_ in checkpoint.answers}


def shown_value(finding):
    """What is shown as this pair's value: of print and packing what stands there, not how rare it is."""
    if finding.checkpoint.kind == Kind.PAPER:
        return None if finding.reading is None else finding.reading.value
    return quantity_of(finding.checkpoint, finding.reading, finding.compared)


def _still(finding) -> list[str]:
    """Of one place photographed twice: that it does not move, where the verified pairs' does."""
    checkpoint, value = finding.checkpoint, shown_value(finding)
    if checkpoint.left is None or checkpoint.left.view == checkpoint.right.view or value is None:
        return []
    retail = [one for _, one in finding.retail]
    if not stands_still(value, finding.reading.uncertainty, retail):
        return []
    usual = plain(sum(retail) / len(retail), checkpoint.unit)
    return [f"Does not move: both photographs read the same here. The verified pairs’ differ by {usual}."]


def _lent_words(finding) -> str:
    """Of a check that another model lends: whose it is. A query, of a lent one two."""
    lender, release = finding.checkpoint.release, finding.case.pair.release
    if (lender.shoe_model_id, lender.generation) == (release.shoe_model_id, release.generation):
        return ""
    return f"Lent by {lender}, with its verified pairs. It speaks for this part only."


def _presented(finding) -> dict:
    """What the measure's own presenter shows besides the number that is judged."""
    words = WORDS.get(finding.checkpoint.measure)
    known = finding.compared.get("parts", {})
    return words.present(known, finding.reading) if words and words.present and finding.reading else {}


def _not_compared_words(finding) -> str:
    """Why the reading could not be compared with the verified pairs'."""
    why = finding.compared.get("why")
    return f"Not compared with the verified pairs: {wording.NOT_COMPARED.get(why, '')}." if why else ""


def _signs(finding) -> list[dict]:
    """Sign by sign, where one code is compared with one code."""
    reading = finding.reading
    if reading is None or not finding.checkpoint.paper.startswith("code_on"):
        return []
    return signs(finding.checkpoint.release.style_code, str(reading.value))


def _asks(finding) -> str:
    """What the checker should do here."""
    if finding.reason == VOID or finding.grade == Grade.NOT_COMPARED or finding.confirmed_by_id:
        return ""
    if finding.grade == Grade.DEPARTS:
        return _asks_of_flag(finding)
    if finding.checkpoint.kind == Kind.COUNT and from_unfit_photo(finding.reading):
        return "The photograph should be taken again. Until then check every tick."
    if finding.checkpoint.kind == Kind.COUNT and finding.reading.uncertainty >= UNSURE_COUNT:
        return "The count is unsure. Check the ticks at both ends."
    return ""


def _asks_of_flag(finding) -> str:
    if is_pending(finding):
        return "The program placed this mark. Check that it is in the right place. The flag counts once you confirm it."
    if finding.checkpoint.decisive:
        return "Retail never does this. Look again; if it is so, say so: that alone rules the pair out."
    return "One red flag. Look again before it is held against somebody."


def refusal_words(reading) -> str:
    if reading is None or not reading.refusal:
        return ""
    numbers = {name: value for name, value in reading.refusal.items() if name != "reason"}
    if reading.refusal["reason"] == "could_not_tell":
        return f"Could not tell: {numbers.get('why') or 'no reason given'}"
    return wording.sentence(reading.refusal["reason"], numbers)


def written(checkpoint, value, names: dict) -> str:
    if value is None:
        return "–"
    if checkpoint.kind == Kind.CONTINUOUS:
        return plain(value, checkpoint.unit)
    return names.get(value, str(value))


UNIT_WORDS = {"deg": "°", "pct": "%", "ratio": "", "count": "", "answer": "", "text": ""}


def unit_words(checkpoint) -> str:
    """The unit as it is written behind a number."""
    return UNIT_WORDS.get(checkpoint.unit, checkpoint.unit) if checkpoint.kind == Kind.CONTINUOUS else ""


def _uncertainty(finding) -> float:
    return uncertainty_of(finding.checkpoint, finding.reading, finding.compared) if finding.reading else 0.0


def shown_number(finding, names: dict) -> str:
    """This pair's value, with as many digits as it is sure of."""
    checkpoint, value = finding.checkpoint, shown_value(finding)
    if value is None or checkpoint.kind != Kind.CONTINUOUS:
        return written(checkpoint, value, names)
    return figure(value, decimals(_uncertainty(finding), usual_decimals(value, checkpoint.unit)))


def _uncertainty_words(finding) -> str:
    checkpoint, uncertainty = finding.checkpoint, _uncertainty(finding)
    if checkpoint.kind == Kind.CONTINUOUS:
        unit = UNIT_WORDS.get(checkpoint.unit, checkpoint.unit)
        off = f"± {figure(uncertainty, decimals(uncertainty, MOST_DECIMALS))}" if uncertainty else ""
        return f"{off}{THIN}{unit}".strip()
    if checkpoint.kind == Kind.COUNT:
        return f"± {uncertainty:.1f}" if uncertainty >= 0.05 else "± 0"
    return ""


def retail_words(finding, names: dict) -> tuple[str, str]:
    """What retail does: the number, and how firmly."""
    values = [value for _, value in finding.retail]
    kind = finding.checkpoint.kind
    if kind == Kind.PAPER:
        return paper_wording.wanted_words(finding.checkpoint), ""
    if not values:
        return "–", "not known"
    if kind == Kind.CONTINUOUS:
        unit = finding.checkpoint.unit
        usual = usual_decimals(values[0], unit)
        # One figure more than ours: a mean of several is surer than one reading.
        places = min(usual, decimals(_uncertainty(finding), usual) + 1)
        mean, low, high = (figure(v, places) for v in (sum(values) / len(values), min(values), max(values)))
        return mean, f"{low} to {high}"
    commonest = max(set(values), key=values.count)
    firm = "always" if len(set(values)) == 1 else f"{values.count(commonest)} of {len(values)}"
    return names.get(commonest, str(commonest)), firm
