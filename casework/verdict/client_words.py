"""The paragraph for the client, written from the findings; a person edits it before signing."""

from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.rules import Verdict
from assay.judge.verbal import NEITHER, in_words
from casework.wording import how_often

MOST_TOLD = 6
CLOSING = "This is an opinion on what was examined, not a legal finding."


def client_words(case, rows: list[dict], stand) -> str:
    """Which parts, how far outside, how often retail does that, what was not compared, what it comes to.

    ``rows``: as the verdict page shows them, in working order.
    """
    done = [row for row in rows if row["finding"].grade != Grade.NOT_COMPARED]
    lines = [_compared(case, done)]
    flagged = [row for row in done if Grade(row["finding"].grade) in RED_FLAGS]
    flagged.sort(key=lambda row: getattr(stand.pieces.get(row["checkpoint"].key), "effect", 0.0))
    lines += [_off(row) for row in flagged[:MOST_TOLD]]
    if len(flagged) > MOST_TOLD:
        lines.append(f"{len(flagged) - MOST_TOLD} more things depart from retail.")
    if done and not flagged:
        lines.append("Nothing of it departs from what retail pairs do.")
    missed = _not_compared(rows)
    if missed:
        lines.append(f"Not compared: {missed}.")
    lines += [_comes_to(stand), CLOSING]
    return " ".join(line for line in lines if line)


def _compared(case, done: list[dict]) -> str:
    release = case.pair.release
    name = f"{release.shoe_model.maker.name} {release.shoe_model.name} {release.colourway}"
    pairs = max((len(row["finding"].retail) for row in done), default=0)
    if not done:
        return f"Nothing of this {name} was compared yet."
    beside = f"with {pairs} verified retail pair{'s' if pairs != 1 else ''}" if pairs else "with what retail has"
    sections = list(dict.fromkeys(_section(row) for row in done))
    named = f"{', '.join(sections[:-1])} and {sections[-1]}" if len(sections) > 1 else sections[0]
    return f"We compared {len(done)} points of this {name} {beside}: {named}."


def _section(row: dict) -> str:
    name = row["checkpoint"].section
    return name if name[:2].isupper() else name.lower()


def _off(row: dict) -> str:
    checkpoint, finding = row["checkpoint"], row["finding"]
    unit = f" {checkpoint.unit}" if checkpoint.unit == "mm" else ""
    slips = " ".join(row["slips"])
    often = how_often(finding.tail_probability)
    if slips:
        return f"{checkpoint.name}: {slips}"
    retail = row["retail"][0] + (f" ({row['retail'][1]})" if row["retail"][1] else "")
    return f"{checkpoint.name}: {row['value']}{unit}, retail {retail}{unit if '(' not in retail else ''}; {often}."


def _not_compared(rows: list[dict]) -> str:
    """Sections of which nothing was compared."""
    sections: dict[str, bool] = {}
    for row in rows:
        section = _section(row)
        sections[section] = sections.get(section, False) or row["finding"].grade != Grade.NOT_COMPARED
    return ", ".join(section for section, done in sections.items() if not done)


def _comes_to(stand) -> str:
    words = in_words(stand.balance.total)
    if stand.answer.verdict is Verdict.UNDECIDED:
        return "All together it does not settle whether the pair is legit."
    if words == NEITHER:
        return ""
    towards = "that it is a retail pair" if stand.balance.total > 0 else "that it is a copy"
    return f"All together it gives {words} for the view {towards}."
