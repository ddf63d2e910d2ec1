"""Print, packing and conditions become sentences. Nothing here computes."""

from casework import wording

OUTCOMES = {"same": "same", "not_contradicted": "open", "unusual": "odd", "off": "off"}


# place: label of its field, what to write there, an example's shape
def print_words(field) -> str:
    """How surely a field was read off a photograph."""
    if field.resolved:
        return f"Read as {field.printed}; the maker’s format says {field.text}. Compare each sign."
    return "Read off the photograph. Compare it, then confirm."


PLACES = {
    "box.style_code": ("Style code on the box label", "as printed; spaces and dashes do not matter"),
    "tag.style_code": ("Style code on the size tag", "as printed; spaces and dashes do not matter"),
    "box.colour": ("Colour as the label words it", "the whole wording, as printed"),
    "box.barcode": ("Digits printed under the bars", "8, 12, 13 or 14 of them, the small outer ones too"),
    "box.scanned": ("What the bars say", "read off the photograph of the label"),
    "box.sizes": ("Size row on the box label", "each figure behind its system, such as US 9.5 UK 8.5"),
    "tag.sizes": ("Size row on the tag", "each figure behind its system, such as US 9.5 EU 43"),
    "tag.made": ("Made from and to", "both dates, such as 02/24 - 04/24"),
    "tag.serial_left": ("Serial on the left tag", "all of it, as printed"),
    "tag.serial_right": ("Serial on the right tag", "all of it, as printed"),
    "tag.factory": ("Factory code on the tag", "as printed"),
    "box.stamp": ("What is stamped inside the lid", "as stamped, or NONE where there is none"),
    "box.outer": ("Box outside, mm", "length × width × height; with cm or in behind it, if that is what the tape says"),
    "box.inlay": ("What the tag reader shows", "24 signs, or NONE where nothing answers"),
    "packing": ("What lies in the box", ""),
    "insole.words": ("Words on the insole", "line by line, with / between the lines"),
    "sole.words": ("Words on the sole", "line by line, with / between the lines"),
    "card.words": ("Words on the packing card", "line by line, with / between the lines"),
    "tab.words": ("Words on the price tab", "line by line, with / between the lines"),
}
SLIPS = {
    "code_differs": "Place {place} is “{is}”, {other} has “{should}”.",
    "code_differs_alike": "Place {place} reads “{is}” for “{should}”: easily misread. Look again, closely.",
    "codes_disagree": "The two codes differ: “{found}” here, “{wanted}” on the other, from place {place} on.",
    "codes_disagree_alike": "The two codes differ at place {place}, “{is}” for “{should}”: easily misread. Look again.",
    "check_digit_wrong": "The last digit is {is}; the others ask for {should}. Check the typing: no real one ends so.",
    "print_and_bars_differ": "The bars say {bars}, the digits under them {printed}.",
    "barcode_other_size": "This number belongs to US {of}; the pair is US {size}.",
    "barcode_other_release": "This number belongs to {release}.",
    "barcode_differs": "The release’s number for US {size} is {wanted}.",
    "cell_off": "{system} says {is}; this maker’s chart has {should}.",
    "row_in_no_chart": "None of these figures is in this maker’s charts. Look again for a misread one.",
    "other_group": "The row is the maker’s {group}’s row; this release is made in {usual}’s sizes.",
    "size_not_the_pair_s": "The row is of US {is}; the pair was entered as US {should}.",
    "made_after_bought": "Made from {start}, but bought in {bought}.",
    "made_far_from_release": "Made {months} months {side} the release. Retail dates vary: weak by itself.",
    "serials_equal": "Both shoes carry {serial}. On this release left and right differ.",
    "serials_unequal": "Left and right differ. On this release both carry the same.",
    "factory_unknown": "Not one of the factories known for this release ({known}). Weak by itself.",
    "wording_differs": "Retail labels word it “{wanted}”.",
    "words_missing": "“{wanted}” is missing.",
    "words_differ": "“{found}” where retail has “{wanted}”.",
    "words_alike": "“{found}” where retail has “{wanted}”: easily misread. Look again, closely.",
    "stamp_missing": "No stamp. Most retail lids of this release have one.",
    "stamp_surplus": "There is a stamp; lids of this release have none.",
    "stamp_form": "Not of the release’s form ({mask}: A a letter, 9 a figure).",
    "inlay_missing": "Nothing answers, though this maker fits inlays in that year. One may be torn or shielded.",
    "inlay_too_early": "There is an inlay, but this maker did not fit any in that year.",
    "inlay_blank": "The inlay’s memory was never written.",
    "inlay_coding": "The memory is not coded as a trade item with a serial (SGTIN-96).",
    "inlay_seen": "The very same inlay was read in pair {pair}: no two are alike.",
    "item_missing": "{item}: {count} of {wanted}.",
    "item_unexpected": "{item}: {count} there, {wanted} should be.",
    "item_wrong": "{item}: {how}.",
}
STATES = {
    "as_listed": "as listed",
    "missing": "missing",
    "unexpected": "should not be",
    "wrong": "not like that",
    "void": "may be gone",
    "not_looked": "not looked at",
}
WANTED = {
    "production": "made near the release date",
    "serials": "as this release has them",
    "sizes_on_box": "the maker’s own chart",
    "sizes_on_tag": "the maker’s own chart",
    "packing": "the release’s list",
    **{f"words_on_{thing}": "as on the verified pairs" for thing in ("insole", "sole", "card", "tab")},
    "radio_inlay": "a written one, never seen before",
}

FACTS = {
    "condition": "the pair is",
    "arrival": "it came",
    "in_hand": "the pair is",
    "reference_in_hand": "a retail pair is",
    "region": "the region is",
    "generation": "the generation is",
    "release_generation": "the release’s generation is",
    "year": "the year is",
    "size_us": "the size is",
    "box_size_us": "the box’s size is",
    "box_class": "the box’s kind is",
    "size_class": "the size’s kind of box is",
    "feet": "the pair has",
    "tools": "on the table is",
}
VALUES = {
    "deadstock": "deadstock",
    "tried_on": "tried on",
    "worn": "worn",
    "own_box": "in its own box",
    "other_box": "in another box",
    "no_box": "without a box",
    "eu": "Europe",
    "us": "North America",
    "asia": "Asia",
    "both": "both shoes",
    "left": "the left shoe only",
    "right": "the right shoe only",
    "uv_lamp": "a UV lamp",
    "caliper": "a caliper or tape",
    "card": "a bench card",
    "tag_reader": "a tag reader",
}

FEET_HERE = {"left": "only the left shoe is here", "right": "only the right shoe is here", "both": "both are here"}


def value_words(fact: str, value) -> str:
    """A fact's value as people say it."""
    if fact in ("in_hand", "reference_in_hand"):
        return "in hand" if value else "not in hand"
    return VALUES.get(value, str(value)) if isinstance(value, str) else str(value)


def condition_words(clauses: list) -> str:
    """A condition as a sentence; nothing where a checkpoint always applies."""
    if clauses == [{"fact": "feet", "is": ["both"]}]:
        return "Needs both shoes."
    said = [_clause_words(clause) for clause in clauses]
    return f"Applies when {', and '.join(said)}." if said else ""


def _clause_words(clause: dict) -> str:
    if "any" in clause:
        return " or ".join(_clause_words(one) for one in clause["any"])
    fact = clause["fact"]
    if "is" in clause:
        return f"{FACTS[fact]} {' or '.join(value_words(fact, value) for value in clause['is'])}"
    if "has" in clause:
        return f"{FACTS[fact]} {value_words(fact, clause['has'])}"
    if "same_as" in clause:
        return "the generation is the release’s" if fact == "generation" else "the box belongs to the pair’s size"
    low, high = clause.get("from"), clause.get("to")
    if low is None or high is None:
        return f"{FACTS[fact]} {f'{low} or later' if high is None else f'{high} or earlier'}"
    return f"{FACTS[fact]} {low} to {high}"


def void_words(void: dict) -> str:
    """Why a checkpoint does not apply."""
    return f"Doesn’t apply: {_void_reason(void)}" if void else ""


def _void_reason(void: dict) -> str:
    fact, got = void["fact"], void["got"]
    if void["asked"] == "has":
        return f"needs {value_words(fact, void['wanted'])} on the table"
    if void["asked"] == "same_as" and fact == "box_size_us":
        return f"the box belongs to size {got}, the pair is size {void['wanted']}"
    if void["asked"] == "same_as" and fact == "generation":
        return f"the verified pairs are of generation {void['wanted']}, this one is of {got}"
    if void["asked"] == "same_as":
        return f"the box is of kind {got}, the size needs {void['wanted']}"
    plain = f"{FACTS[fact]} {value_words(fact, got)}"
    return VOID_REASONS.get(fact, {}).get(got, plain)


VOID_REASONS = {
    "condition": {"worn": "says nothing on a worn pair", "tried_on": "says nothing once it was tried on"},
    "in_hand": {False: "needs the pair in hand"},
    "reference_in_hand": {False: "needs a verified pair in hand"},
    "arrival": {"no_box": "there is no box", "other_box": "the box is not its own"},
    "feet": FEET_HERE,
}


def why_not_compared(finding) -> str:
    """Why a finding has no grade."""
    return void_words(finding.void) or wording.NOT_COMPARED.get(finding.reason, "")


def slip_words(reading) -> list[str]:
    """Everything that print or packing has wrong, a sentence each."""
    slips = reading.details.get("slips", []) if reading else []
    return [SLIPS[slip["reason"]].format(**_named(slip["numbers"])) for slip in slips]


def _named(numbers: dict) -> dict:
    other = {"box.style_code": "the box", "tag.style_code": "the tag"}.get(numbers.get("other"), numbers.get("other"))
    return {**numbers, "other": other}


def wanted_words(checkpoint) -> str:
    """What should stand there."""
    release = checkpoint.release
    known = {
        "code_on_box": release.style_code,
        "code_on_tag": release.style_code,
        "colour_wording": release.colour_wording,
        "factory": ", ".join(release.factory_codes),
        "barcode": "the release’s number for the size",
        "stamp": f"of the form {release.stamp_mask}" if release.stamp_mask else "",
    }
    return known.get(checkpoint.paper) or WANTED.get(checkpoint.paper, "–")
