"""How a proposed check is called until a person says better."""

from casework.guides.wording import Choice, choices
from guides.models import ProposedCheck
from library.photo_kinds import name_of as view_name

NOUNS = {"row": "Row", "gap": "Row and edge", "holes": "Holes", "mark": "Mark", "panel": "Material", "lit": "UV"}
PLACES = {"toe": "at the toe", "side": "on the side", "heel": "at the heel", "sole": "on the sole"}


def choice_of(proposal: ProposedCheck) -> Choice | None:
    """The number it judges; None where drawing offers it to nobody."""
    return choices().get(f"{proposal.measure}:{proposal.quantity}")


def place_name(proposal: ProposedCheck) -> str:
    """Such as “Row at the heel, left”."""
    photo = proposal.photo
    view, noun = view_name(photo.view), NOUNS.get(proposal.noun)
    where = PLACES.get(proposal.place, "")
    if noun is None:
        what = view.capitalize()
    elif where:
        # Of “side, inner” the place says the side already.
        what = ", ".join([f"{noun} {where}", *view.split(", ")[1:2]])
    else:
        what = f"{noun}, {view}"
    return ", ".join(filter(None, (what, photo.foot)))


def name_of(proposal: ProposedCheck, choice: Choice) -> str:
    """Place first, then the number."""
    number = f"{choice.name[:1].lower()}{choice.name[1:]}"
    return f"{place_name(proposal)}: {number}"[:80]
