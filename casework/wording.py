"""Core errors, grades and reasons become sentences. Nothing here computes."""

from string import Formatter

REASONS = {
    # files
    "empty_file": "The file is empty: nothing arrived. Send it again.",
    "file_too_large": "The file has {megabytes} MB; the most is {most} MB. Export the photo smaller, or as JPEG.",
    "not_a_photo": "This is not a photograph that can be read. Send a JPEG, HEIC, PNG, WebP or TIFF file.",
    "truncated": "The photo is cut off: the upload or the file stopped in the middle. Send it again.",
    "too_many_pixels": "The photo has too many pixels; the most is {most} megapixels. Export it smaller.",
    "too_few_pixels": "The photo is only {width} × {height} pixels. Stitches need more: at least {fewest} a side.",
    "same_file": "This very file is here already, as {foot}, {view}. One is kept.",
    "no_file": "No file was chosen. Pick one or more photographs.",
    # marks and measuring
    "marks_off_picture": "The marks lie off the photograph. Draw them inside it.",
    "path_too_short": "The path is too short to hold a row. Trace from the first stitch to the last.",
    "region_too_small": "The region is too small. Draw at least three corners around the holes.",
    "too_few_pixels_stitch": "Only {px_per_stitch} pixels a stitch; {needed} are needed. Photograph it closer.",
    "no_row_found": "No row of stitches was found along the path. Move the path onto the row, or count by eye.",
    "no_holes_found": "No round holes were found in the region. Move the region, or mark them by hand.",
    "no_points_left": "No mark is left. If the row or hole is missing altogether, choose “Can’t tell” and say so.",
    "bad_points": "The marks did not arrive whole. Try again.",
    "no_common_features": "The photo could not be laid onto the reference by itself. Put the marks in place by hand.",
    "mirrored": "This looks like the other foot, or a mirrored photo. Check which shoe it shows.",
    "nothing_drawn": "Nothing is drawn on the reference photograph for this check.",
    "no_photo": "There is no photograph of this side yet. Add one under Intake.",
    "nothing_to_confirm": "There is no reading to stand by yet.",
    "nothing_to_correct": "There is nothing counted yet that could be corrected. Put the marks in place first.",
    "unknown_answer": "That is not one of the answers. Choose one from the list.",
    # codes
    "wrong_length": "A code here has {wanted} letters and figures, pattern {mask}; this has {got}.",
    "wrong_sign": "Place {position} should be a {wanted}, not “{got}”.",
    "unknown_code": "No release with the code {code} is in the library.",
    "no_reference": "No verified retail pair of {code} is recorded, so there is nothing to compare with.",
    "no_checkpoints": "Nothing is written down yet on how to check {code}. Ask the guide writer.",
    # signing
    "no_words": "Write a sentence on why: the client and the next checker read it.",
    "still_measuring": "The photographs are still being measured. Wait for the last one, then sign.",
    "signed_meanwhile": "Another opinion was signed meanwhile ({by}). Read it first, then decide again.",
}

NOT_COMPARED = {
    "not_looked_at": "not looked at yet",
    "worn": "void: says nothing on a worn pair",
    "photographs_only": "void: needs the pair in hand",
    "could_not_tell": "looked at, could not tell",
    "not_measured": "could not be measured",
    "no_retail_pairs": "no verified retail pair has a reading",
    "no_scatter_known": "not known by how much retail varies",
    "no_scale": "the photo has no scale in mm",
}

FITNESS = {"usable": "Fit to measure.", "doubts": "Usable, with doubts:", "retake": "Take it again:"}
PHOTO_DOUBTS = {
    "blurred": "the photo is not sharp on the shoe; rest the camera and focus on the shoe",
    "burnt_out": "parts of the shoe are burnt out; less light or a shorter exposure",
    "too_dark": "parts of the shoe are lost in the dark; more light",
    "glare": "a lamp glares on the shoe; move the lamp or the shoe",
    "small_in_frame": "the shoe is small in the picture; go closer",
    "shoe_not_found": "the shoe does not stand out from the ground; use the plain stand",
}
DOUBTS = {
    **PHOTO_DOUBTS,
    "corrected_by_hand": "corrected by hand",
    "gap_in_row": "there is a gap in the row: a stitch may be missing",
    "few_pixels": "few pixels: look closely before you rely on it",
    "weak_row": "the row is hard to see: check every tick",
}

SCHOOLS = {
    "sure_sign": ("One sure sign", "fake as soon as one confirmed sign rules the pair out"),
    "red_flag_tally": ("Red-flag tally", "fake from {red_flags} independent red flags on"),
}

ANSWER_REASONS = {
    "ruled_out": "A confirmed sign rules the pair out.",
    "enough_flags": "{flags} independent red flags; {red_flags} are enough.",
    "too_few_flags": "{flags} of {red_flags} red flags: too many for legit, too few for fake.",
    "no_sure_sign": "Something departs, but no confirmed sign rules the pair out.",
    "mandatory_missing": "Nothing departs, but a check is missing that a legit verdict needs.",
    "coverage_short": "Nothing departs, but only {coverage} % of what applies was compared; {needed} % are asked.",
    "clean_and_covered": "Nothing departs, and enough was compared.",
}

GRADE_WORDS = {
    "agrees": "agrees",
    "drifts": "drifts",
    "departs": "departs",
    "rules_out": "rules out",
    "not_compared": "not compared",
}
GRADE_MEANS = {
    "agrees": "Inside what retail pairs do.",
    "drifts": "Unusual for retail. Noted; no flag.",
    "departs": "Outside what retail pairs do: one red flag.",
    "rules_out": "Retail never does this, and you confirmed it.",
    "not_compared": "",
}
DEEDS = {
    "case_opened": "opened the case",
    "facts_entered": "entered facts",
    "photo_added": "added a photograph",
    "measured": "had the photographs measured",
    "confirmed": "confirmed by eye",
    "corrected": "corrected by hand",
    "marks_moved": "moved the marks",
    "answered": "answered",
    "could_not_tell": "could not tell",
    "signed": "signed",
}


def sentence(reason: str, numbers: dict | None = None) -> str:
    """A reason code and its numbers as a sentence that says what to do."""
    numbers = dict(numbers or {})
    if reason == "too_few_pixels" and "px_per_stitch" in numbers:
        reason = "too_few_pixels_stitch"
    if reason == "wrong_sign":
        numbers["wanted"] = {"A": "letter", "9": "figure"}.get(numbers.get("wanted"), "sign")
    template = REASONS.get(reason, "This could not be done ({reason}).")
    fields = {name: "?" for _, name, _, _ in Formatter().parse(template) if name}
    words = template.format(**{**fields, "reason": reason, **numbers})
    if reason == "unknown_code" and numbers.get("nearest"):
        words += f" Did you mean {numbers['nearest']}?"
    return words


def fitness_words(fitness: dict) -> str:
    """What a photograph is fit for, and what to change."""
    if not fitness:
        return ""
    reasons = [PHOTO_DOUBTS[code] for code in (*fitness["retake"], *fitness["doubts"])]
    return " ".join((FITNESS[fitness["verdict"]], "; ".join(reasons))).strip()


def of_error(error) -> str:
    """The sentence for an error of the core."""
    return sentence(error.reason, error.numbers)


def answer_words(answer, policy) -> str:
    """Why a school says what it says."""
    return ANSWER_REASONS[answer.reason].format(
        flags=len(answer.flags),
        red_flags=policy.red_flags,
        coverage=round(100 * answer.coverage),
        needed=round(100 * policy.coverage),
    )
