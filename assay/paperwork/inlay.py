"""The radio inlay behind a label: what a reader reports, and what it says.

Electronic Product Code, scheme SGTIN-96: GS1 EPC Tag Data Standard, section 14 (bit layout and partition table from
memory, checked on the standard's own worked example).
"""

import re
from dataclasses import dataclass

from stdnum import ean

from assay.errors import AssayError
from assay.paperwork.signs import latin

HEADER = 0x30
# Bits of company prefix and item reference, and the prefix's digits, by partition value.
PARTITIONS = ((40, 4, 12), (37, 7, 11), (34, 10, 10), (30, 14, 9), (27, 17, 8), (24, 20, 7), (20, 24, 6))
ABSENT = "NONE"


class BadInlay(AssayError):
    """Not what a tag reader shows."""


@dataclass(frozen=True, slots=True)
class Epc:
    """A trade item's number and the serial of this one piece."""

    gtin14: str
    serial: int


def cleaned(typed: str) -> str:
    """What the reader shows: 24 hexadecimal signs, or ``NONE`` where nothing answers.

    Raises BadInlay ``inlay_not_hex`` (got) or WrongAlphabet.
    """
    text = re.sub(r"[\s:\-]", "", latin(typed))
    if text == ABSENT or re.fullmatch(r"[0-9A-F]{24}", text):
        return text
    raise BadInlay("inlay_not_hex", got=len(text))


def is_blank(epc: str) -> bool:
    """Whether the memory was never written.

    >>> is_blank("0" * 24), is_blank("3074257BF7194E4000001A85")
    (True, False)
    """
    return len(set(epc)) == 1


def decoded(epc: str) -> Epc | None:
    """What an SGTIN-96 says; None where the memory is coded in another way.

    >>> decoded("3074257BF7194E4000001A85")
    Epc(gtin14='80614141123458', serial=6789)
    """
    bits = int(epc, 16)
    partition = (bits >> 82) & 0b111
    if bits >> 88 != HEADER or partition >= len(PARTITIONS):
        return None
    company_bits, item_bits, company_digits = PARTITIONS[partition]
    company = (bits >> (38 + item_bits)) & ((1 << company_bits) - 1)
    item = str((bits >> 38) & ((1 << item_bits) - 1)).zfill(13 - company_digits)
    prefix = str(company).zfill(company_digits)
    if len(prefix) != company_digits or len(item) != 13 - company_digits:
        return None
    body = item[0] + prefix + item[1:]
    return Epc(body + ean.calc_check_digit(body), bits & ((1 << 38) - 1))


def encoded(gtin14: str, serial: int, *, company_digits: int = 7, shelf: int = 1) -> str:
    """The 24 signs that a maker would write: for the simulated reader.

    >>> encoded("80614141123458", 6789, shelf=3)
    '3074257BF7194E4000001A85'
    """
    partition = 12 - company_digits
    _, item_bits, _ = PARTITIONS[partition]
    company, item = int(gtin14[1 : 1 + company_digits]), int(gtin14[0] + gtin14[1 + company_digits : 13])
    bits = (HEADER << 88) | (shelf << 85) | (partition << 82) | (company << (38 + item_bits)) | (item << 38) | serial
    return f"{bits:024X}"
