"""Core errors, grades and reasons become sentences. Nothing here computes."""

from string import Formatter
from types import MappingProxyType

from assay.contracts import Light
from assay.judge.levels import Level
from assay.pipeline.facts import PhotoFitness
from casework.guides.wording import WORDS
from casework.reasons import REASONS

NOT_COMPARED = {
    "not_looked_at": "not looked at yet",
    "void": "does not apply",
    "not_contradicted": "nothing speaks against it; that is no reason for legit either",
    "other_size": "the verified pairs are of sizes that this cannot be carried over from",
    "could_not_tell": "looked at, could not tell",
    "not_measured": "could not be measured",
    "no_retail_pairs": "no verified retail pair has a reading",
    "no_scatter_known": "not known by how much retail varies",
    "too_few_bands": "too few sizes of grain show on both photographs: take them closer",
    "marks_too_unlike": "the two marks have too little in common: check the region (M), or that it is the same mark",
    "clean_says_nothing": "nothing found beyond what retail shows; that says next to nothing, such marks wash off",
    "other_lamp": "no verified pair was photographed under the same lamp, or nobody said which lamp it was: say so on "
    "the photograph",
    "one_retail_pair": "one verified pair is known: nobody can say yet by how much retail pairs differ from each other",
    "no_true_colour": "colours are true only with the bench card in both pictures, and it is not",
    "nothing_to_compare": "the verified pairs were read before such things were kept: have them measured again",
    "other_marks": "the marks on the two pictures do not correspond: move them (M) so that they do",
    "rims_too_unlike": "the two outlines have too little in common: check that both show the same view and foot",
    "patterns_too_unlike": "the two patterns have too few holes in common: move the region (M)",
    "photo_unfit": "the photo is not fit to measure lengths on: take it again",
    "no_scale": "this photo has no scale in mm: open it and click two points of known distance, or take it again with "
    "the bench card",
    "other_unit": "the reading is in another unit than this check: correct the check on its guide",
    "too_unsure": "the reading is too unsure to show a fault: take a sharper or closer photo, or give it a better "
    "scale",
    "marks_to_place": "this check measures between its own marks: put them onto the feature first (M)",
    "retail_unsure": "the verified pairs’ own counts are unsure: confirm or correct them on the guide first",
    "needs_third_pair": "two verified pairs cannot show how much retail varies here: a third one is needed",
}

FITNESS = {"usable": "Fit to measure.", "doubts": "Usable, with doubts:", "retake": "Take it again:"}
PHOTO_DOUBTS = {
    "blurred": "the photo is not sharp on the shoe; rest the camera and focus on the shoe",
    "burnt_out": "parts of the shoe are burnt out; less light or a shorter exposure",
    "too_dark": "parts of the shoe are lost in the dark; more light",
    "glare": "a lamp glares on the shoe; move the lamp or the shoe",
    "small_in_frame": "the shoe is small in the picture; go closer",
    "too_coarse": "too few pixels a millimetre for this view’s checks; go closer",
    "tilted": "the camera leans; hold it square to the shoe",
    "shoe_not_found": "the shoe does not stand out from the ground; use the plain stand",
    "shoe_cut_off": "the shoe runs out of the picture; show all of it",
    "retails_own_photo": "this is a verified pair’s own photograph, sent again: ask for one of this pair, with a "
    "word on paper beside it",
    "screenshot": "this looks like a screenshot; ask for the photograph itself",
    "picture_of_a_screen": "this looks like a picture of a screen; photograph the shoe itself",
    "mirrored_photo": "the picture is mirrored; turn the selfie camera’s mirroring off and take it again",
    "card_corner_missing": "one corner of the bench card cannot be seen; the scale is less sure",
    "card_bent": "the bench card is not flat; the scale is less sure",
    "upside_down": "the bars run backwards: the label stands on its head, or the picture is mirrored",
    "several_codes": "several barcodes are in the picture; type the digits of the right one",
    "uneven_light": "the light differs a lot over the bench card",
    "scale_disagrees": "by the bench card the shoe is another size than retail’s: did the card lie on the table, or "
    "against the shoe? Open the photograph and say how high",
}
DOUBTS = {
    "light_things": "light things on darker ground were counted; if dark holes are meant, move the region",
    **PHOTO_DOUBTS,
    "corrected_by_hand": "corrected by hand",
    "marks_carried": "the marks were placed by the program, to about a millimetre: check them (M)",
    "few_pixels": "few pixels: look closely before you rely on it",
    "photographs_disagree": "the other photograph of this view says otherwise: look at both, set one aside",
    "more_may_belong": "a faint line runs beyond the outline: a part of the shoe may be cut off; try another ground",
    "rim_partly_guessed": "part of the outline can hardly be seen against the background",
    "weak_row": "the row is hard to see: check every tick",
    "edge_as_drawn": "no clear edge was found there: it is taken as it was clicked",
    "last_unclear": "the last stitch hardly shows: look whether it is one, or whether one more follows",
}

for _words in WORDS.values():
    DOUBTS |= _words.doubts

RULES = {
    "sure_sign": ("One sure sign", "fake as soon as one confirmed sign rules the pair out"),
    "red_flag_tally": ("Red-flag tally", "fake from {red_flags} independent red flags on"),
    "weighs_everything": (
        "Weighs everything",
        "legit from {legit_from} decibans, fake from {fake_from}",
    ),
}


def rule_words(key: str) -> tuple[str, str]:
    """A decision rule's name, and what it asks; one without words of its own is called by its key."""
    return RULES.get(key, (key.replace("_", " ").capitalize(), ""))


OTHERWISE = {
    "perfect_more": "if twice as many copies are nearly perfect as assumed",
    "perfect_fewer": "if half as many copies are nearly perfect as assumed",
    "no_batches": "without the known copies",
    "faults_wider": "if copies’ faults scatter twice as wide as assumed",
    "faults_narrower": "if copies’ faults scatter half as wide as assumed",
    "caps_lower": "if no check may say more than half of what it may now",
    "less_retail": "with one retail pair fewer",
    "oddities_more": "if retail pairs are odd twice as often as believed",
    "oddities_fewer": "if retail pairs are odd half as often as believed",
    "scales_worse": "if the photos’ scales are twice as unsure as they claim",
}
"""Assumptions that a total is tried under."""
ANSWER_REASONS = {
    "hangs_on_assumption": "The verdict would turn {otherwise}. More checks settle it.",
    "ruled_out": "A confirmed sign rules the pair out.",
    "enough_flags": "{flags} independent red flags; {red_flags} are enough.",
    "shoe_not_examined": "Not enough of the shoe itself was examined for a legit verdict.",
    "too_few_flags": "{flags} of {red_flags} red flags: too many for legit, too few for fake.",
    "no_sure_sign": "Something departs, but no confirmed sign rules the pair out.",
    "nothing_compared": "Nothing has been checked yet.",
    "fake_needs_an_eye": "One unconfirmed reading alone accuses nobody. Look at it and confirm it, or check more.",
    "fake_needs_coverage": "The evidence speaks for a copy, but too little was compared to say so.",
    "flags_to_confirm": "{pending} red flags wait for your eye. They count once you confirm them.",
    "weighs_for_fake": "The evidence speaks for a copy.",
    "weighs_too_little": "The evidence so far doesn’t settle it.",
    "flags_bar_legit": "The evidence speaks for retail, but {flags} red flags stand against legit.",
    "mandatory_missing": "Required for legit and not checked yet: {missing}.",
    "few_retail_pairs": "Nothing differs, but two verified pairs are too few to tell a good copy. Add a third.",
    "coverage_short": "Only {coverage} % of what applies was compared; {needed} % is needed.",
    "weighs_for_retail": "The evidence speaks for retail, despite {flags} red flags.",
    "clean_and_covered": "Nothing differs from retail, and enough was compared.",
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
# Fields of a case's document in the trade's words, where their names do not say it.
DOCUMENT_FIELDS = {
    "prior": "what is believed of it",
    "applies_when": "when it applies",
    "size_rule": "how it goes by size",
    "cap_for": "the most it says for retail",
    "cap_against": "the most it says for a copy",
    "possible_answers": "its answers",
    "seen": "what was seen on no list",
    "of_shoe": "whether it is on the shoe",
    "paper": "which check of print or packing it is",
    "house": "the shop’s name",
}
ACTIONS = {
    "case_opened": "opened the case",
    "facts_entered": "entered facts",
    "certificate_given": "gave out the certificate’s PDF",
    "desk_notes": "changed what is written beside it",
    "photo_added": "added a photograph",
    "measured": "had the photographs measured",
    "moved_marks": "moved a check’s marks on the guide",
    "joined_feet": "held left against right by a check of its own",
    "withdrew": "took a check off the guide",
    "brought_back": "put a check back on the guide",
    "confirmed": "confirmed by eye",
    "corrected": "corrected by hand",
    "marks_moved": "moved the marks",
    "photo_sorted": "said what a photograph shows",
    "photo_set_aside": "set a photograph aside",
    "photo_taken_back": "took a photograph back",
    "photo_lit": "named a neutral part",
    "photo_lamp": "said under which lamp a photograph was taken",
    "photo_preferred": "chose which photograph of a view is used",
    "house_opened": "opened the shop",
    "invited": "invited somebody",
    "joined": "joined the shop",
    "role_given": "gave a role",
    "shut_out": "shut somebody out",
    "print_confirmed": "confirmed what was read off the print",
    "house_set": "said how the shop verifies",
    "policy_set": "set the shop’s policy",
    "release_of_case_changed": "said that it is another release",
    "reference_chosen": "laid another verified pair beside it",
    "discarded": "discarded the case",
    "check_changed": "changed a check",
    "habit_noted": "noted what a batch gets right by now",
    "second_factor_on": "turned a second factor on",
    "second_factor_off": "turned a second factor off",
    "outcome_learned": "wrote down what was learned later",
    "measured_by_hand": "measured a pair by hand",
    "check_borrowed": "borrowed another model’s check",
    "check_given_back": "gave a borrowed check back",
    "proof_added": "added a photograph of how a pair was verified",
    "example_added": "added a photograph to an answer",
    "check_moved": "moved a check on the rail",
    "guide_imported": "took in a guide file",
    "certificate_issued": "issued a certificate",
    "second_asked": "asked for a second opinion",
    "second_look_opened": "began a second look",
    "round_opened": "asked for closer photographs",
    "maker_added": "added a maker",
    "maker_changed": "changed a maker",
    "release_added": "added a release",
    "release_changed": "changed a release",
    "pair_added": "added a pair to the library",
    "pair_verified": "said that a pair is retail",
    "pair_retired": "retired a pair",
    "taken_over": "took the pair into the library",
    "view_added": "added a kind of photograph",
    "retail_photo_sorted": "said what a library photograph shows",
    "retail_photo_set_aside": "set a library photograph aside or took it back",
    "retail_photo_scaled": "gave a library photograph its scale",
    "grey_tile_set": "wrote down the grey tile’s reflectance",
    "retail_photo_lit": "named a neutral part on a library photograph",
    "retail_photo_lamp": "said under which lamp a library photograph was taken",
    "retail_photo_preferred": "chose which library photograph of a view is used",
    "retail_count_confirmed": "confirmed a verified pair’s count",
    "retail_count_corrected": "corrected a verified pair’s count",
    "retail_photo_added": "added a photograph of a retail pair",
    "photo_scaled": "gave a photograph its scale",
    "laid_on": "laid the reference on by hand",
    "note_pinned": "pinned a measured value",
    "link_opened": "opened a phone link",
    "maker_change_proposed": "proposed a change of a maker that others work with",
    "maker_change_decided": "decided on a proposed change of a maker",
    "link_ended": "ended a phone link",
    "answered": "answered",
    "inscribed": "read what is printed or packed",
    "could_not_tell": "could not tell",
    "seen": "noted something that is on no list",
    "seen_taken_back": "took back something noted",
    "question_added": "added a question to a guide",
    "retail_answered": "answered a question for a retail pair",
    "signed": "signed",
}


LEVELS = [
    (Level.TRIAGE.value, "triage, 5 min"),
    (Level.STANDARD.value, "standard"),
    (Level.FULL.value, "full"),
]
"""How deep a case is looked into."""
AGAINST = {
    "against_rule": "the rule says otherwise",
    "only_triage": "the case was at triage, which never ends in legit",
    "coverage_short": "less was compared than a legit verdict needs",
    "required_missing": "checks that legit needs are missing",
    "flags_unconfirmed": "red flags are not confirmed by eye",
}
"""What may stand against a verdict that somebody signs."""


def against_words(codes) -> str:
    """The same as part of a sentence."""
    return "; ".join(AGAINST[code] for code in codes if code in AGAINST)


def sentence(reason: str, numbers: dict | None = None) -> str:
    """A reason code and its numbers as a sentence that says what to do."""
    numbers = dict(numbers or {})
    if reason == "too_few_pixels" and "px_per_stitch" in numbers:
        reason = "too_few_pixels_stitch"
    if reason == "reason_needed":
        numbers["what"] = against_words(str(numbers.get("what", "")).split())
    if reason == "wrong_sign":
        numbers["wanted"] = {"A": "letter", "9": "figure"}.get(numbers.get("wanted"), "sign")
    own = (words.reasons[reason] for words in WORDS.values() if reason in words.reasons)
    template = REASONS.get(reason) or next(own, "This could not be done ({reason}).")
    if reason == "date_impossible":
        numbers |= {name: _date_orders(numbers.get(name, "")) for name in ("order", "fits")}
    if reason == "length_unlikely" and not numbers.get("maybe"):
        numbers["maybe"] = "350 mm, 35 cm or 13.8 in"
    fields = {name: "?" for _, name, _, _ in Formatter().parse(template) if name}
    words = template.format(**{**fields, "reason": reason, **numbers})
    if reason == "unknown_code" and numbers.get("nearest"):
        words += f" Did you mean {numbers['nearest']}?"
    return words


def _date_orders(letters: str) -> str:
    names = {"D": "day", "M": "month", "Y": "year"}
    orders = ["-".join(names.get(letter, letter) for letter in order) for order in letters.split(" or ") if order]
    return " or ".join(orders) or "no order of day, month and year"


def fitness_words(fitness: PhotoFitness) -> str:
    """What a photograph is fit for, and what to change."""
    if fitness.verdict is None:
        return ""
    reasons = [PHOTO_DOUBTS[code] for code in fitness.reasons if code in PHOTO_DOUBTS]
    return " ".join((FITNESS[fitness.verdict], "; ".join(reasons))).strip()


SCALES = {
    "card": "from the bench card",
    "id1": "from a bank card",
    "rectangle": "from a known rectangle",
    "two_points": "from two points",
    "stand": "of the fixed stand, as typed",
}


def scale_words(photo) -> str:
    """How large a pixel is, how sure, and where that comes from; or why it is not known."""
    if photo.mm_per_px and photo.scale.is_known:
        return f"{photo.mm_per_px:.3f} mm/px {SCALES[photo.scale.source]}."
    reason = photo.scale.refusal
    return f"No scale: {sentence(reason, {'markers': 'some'})}." if reason else "No scale."


def light_words(photo) -> str:
    """Whether colour can be trusted, and by how much."""
    if photo.light.light == Light.TILE:
        return "Colour true against the shop’s grey tile, as light as it is."
    if photo.light.neutral_px:
        return "Colour true against the neutral part that was clicked; lightness as the camera exposed it."
    if photo.light.is_true:
        uneven = round(100 * photo.light.uneven)
        return f"Colour true to ΔE {photo.light.residual_de00:.1f} by the card’s patches; light {uneven} % uneven."
    reason = photo.light.refusal
    return f"Colour not true: {sentence(reason, {'markers': 'some'})}." if reason else ""


def control_words(controls: int, alike: int, *, photographed: bool) -> str:
    """Whether there is a retail pair under the same lamp to hold a photograph under UV against."""
    if not controls:
        return (
            "No control: no verified pair was photographed under UV. Photograph one under this lamp first; until then "
            "only drawn lines and stamps are graded."
        )
    if photographed and not alike:
        return "No control under this lamp: photograph a verified pair by the same one."
    pairs, lamp = alike or controls, "this lamp" if alike else "UV"
    return f"Control: {pairs} verified pair{'' if pairs == 1 else 's'} under {lamp}."


def lamp_words(photo) -> str:
    """Which lamp, and from how far."""
    if not photo.lamp:
        return "Nobody said under which lamp this was taken."
    away = f", {photo.lamp_mm} mm away" if photo.lamp_mm else ""
    return f"Taken under {photo.get_lamp_display()}{away}."


def alignment_words(alignment) -> str:
    """How retail was aligned with the photograph, and how well."""
    how = {
        "features": f"aligned by {alignment.matches} places that retail shows too",
        "appearance": "placed roughly, by where panels meet: check the marks",
        "outline": "placed roughly, by the outline alone: check the marks",
        "landmarks": f"aligned by your {alignment.matches} landmarks",
        "nudged": "moved by hand",
    }[alignment.how]
    return f"{how[0].upper()}{how[1:]}, {alignment.error_px:.1f} px off on average."


GAUGES = {
    "caliper": ("Distance", 2),
    "angle": ("Angle at the middle point", 3),
    "parallel": ("Lean of the second line against the first", 4),
    "meet": ("The first line gone on with, from its end to the second line", 4),
    "circle": ("Diameter of the circle", 3),
    "colour": ("Colour difference", 2),
}
PARTS = {"distance_1": "at one end", "distance_2": "at the other", "out_of_round": "out of round by"}


def gauged_words(tool: str, gauged) -> str:
    """A value taken by pointing, with its uncertainty and whatever else was seen."""
    unit = {"deg": "°", "dE00": ""}.get(gauged.unit, f" {gauged.unit}")
    lead = "ΔE00 " if gauged.unit == "dE00" else ""
    words = f"{GAUGES[tool][0]}: {lead}{_plain(gauged.value)} ± {_plain(gauged.uncertainty)}{unit}"
    more = []
    for name, value in gauged.parts.items():
        stem, _, part_unit = name.rpartition("_")
        if stem in PARTS:
            more.append(f"{PARTS[stem]} {_plain(value)} {part_unit}")
    return "; ".join((words, *more))


def _plain(number: float) -> str:
    return f"{number:.2f}" if abs(number) < 100 else f"{number:.0f}"


def of_error(error) -> str:
    """The sentence for an error of the core."""
    return sentence(error.reason, error.numbers)


def how_often(tail_probability: float | None) -> str:
    """How often retail pairs are like this, in words: no naked probability."""
    if tail_probability is None:
        return ""
    if tail_probability >= 0.1:
        return "usual for retail"
    if tail_probability >= 0.001:
        return f"about {round(1000 * tail_probability)} in 1,000 retail pairs differ this much"
    return "fewer than 1 in 1,000 retail pairs differ this much"


MOST_NAMED = 3


def _otherwise(spread) -> str:
    """The assumption that a verdict hangs on."""
    if not spread or not spread.hangs_on:
        return ""
    if spread.turns_at is None:
        return OTHERWISE[spread.hangs_on]
    than = "more" if spread.hangs_on == "perfect_more" else "fewer"
    return f"if {than} than {100 * spread.turns_at:.2g} in 100 copies are nearly perfect"


def answer_words(answer, policy, names=MappingProxyType({}), spread=None) -> str:
    """Why a decision rule says what it says. ``names``: of checks, by key; ``spread``: the total's range."""
    named = [names.get(key, key) for key in answer.missing]
    more = f" and {len(named) - MOST_NAMED} more" if len(named) > MOST_NAMED else ""
    return ANSWER_REASONS[answer.reason].format(
        flags=len(answer.flags),
        red_flags=policy.red_flags,
        coverage=round(100 * answer.coverage),
        needed=round(100 * policy.coverage),
        pending=len(answer.pending),
        missing=", ".join(named[:MOST_NAMED]) + more,
        otherwise=_otherwise(spread),
    )
