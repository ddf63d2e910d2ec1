"""Letters and figures as people type them."""

import unicodedata

from assay.errors import AssayError

SCRIPTS = {"CYRILLIC": "Cyrillic", "GREEK": "Greek", "ARMENIAN": "Armenian"}


class WrongAlphabet(AssayError):
    """A letter that looks Latin and is not."""


def latin(typed: str) -> str:
    """What was typed, full-width signs made plain and capitals throughout.

    Raises WrongAlphabet ``wrong_alphabet`` (position, sign, script): such a letter is never guessed.

    >>> latin(" ｖq ４４ ")
    'VQ 44'
    """
    plain = unicodedata.normalize("NFKC", typed).strip()
    for position, sign in enumerate(plain, start=1):
        if sign.isalpha() and "LATIN" not in unicodedata.name(sign, ""):
            script = unicodedata.name(sign, "another").split()[0]
            raise WrongAlphabet(
                "wrong_alphabet", position=position, sign=sign, script=SCRIPTS.get(script, script.lower())
            )
        if sign.isdigit() and sign not in "0123456789":
            raise WrongAlphabet("wrong_alphabet", position=position, sign=sign, script="another script's")
    return plain.upper()


def squeezed(typed: str) -> str:
    """Capitals, one space between words."""
    return " ".join(latin(typed).split())
