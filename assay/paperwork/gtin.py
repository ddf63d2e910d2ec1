"""Trade item numbers under barcodes: GTIN-8, -12, -13 and -14 as one number of 14 digits.

Check digit: GS1 General Specifications, section 7.9, by python-stdnum. A valid digit proves only that the number was
not mistyped: whoever copies a label copies the digit with it.
"""

from stdnum import ean

from assay.errors import AssayError
from assay.paperwork.signs import latin

LENGTHS = (8, 12, 13, 14)


class BadBarcode(AssayError):
    """Not a trade item number."""


def digits(typed: str) -> str:
    """The digits of a number as typed, spaces and dashes left out.

    Raises BadBarcode ``barcode_not_digits`` (sign, position) or ``barcode_length`` (got), or WrongAlphabet.
    """
    signs = [sign for sign in latin(typed) if sign not in " -–.\u00a0"]
    for position, sign in enumerate(signs, start=1):
        if sign not in "0123456789":
            raise BadBarcode("barcode_not_digits", sign=sign, position=position)
    if len(signs) not in LENGTHS:
        raise BadBarcode("barcode_length", got=len(signs))
    return "".join(signs)


def gtin14(typed: str) -> str:
    """Fourteen digits, zeros in front; the check digit is not looked at.

    >>> gtin14("0 36000 29145 2"), gtin14("0036000291452")
    ('00036000291452', '00036000291452')
    """
    return digits(typed).zfill(14)


def check_digit(typed: str) -> tuple[str, str]:
    """The check digit that is there, and the one that should be.

    >>> check_digit("6291041500213"), check_digit("6291041500219")
    (('3', '3'), ('9', '3'))
    """
    number = gtin14(typed)
    return number[-1], ean.calc_check_digit(number[:-1])
