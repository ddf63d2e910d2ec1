"""Kinds of photograph for insides, the inner side and what is looked at under the lamp."""

from django.db import migrations

LAMP = "UV lamp: never into eyes or on skin; UV-blocking glasses; shortest time; follow the lamp’s own sheet."
DARK = "Dark room, one lamp at one distance, exposure fixed by hand. Retail pair first, as the control."
PEEL = "Lift it only with the owner’s consent: it can tear, and its glue is evidence."
UV = {"ultraviolet": True, "caution": LAMP, "how": DARK}
SEED = [
    {"key": "side_in", "name": "side, inner", "position": 11, "sketch": "side", "one_sided": True,
     "how": "As the outer side: plain stand, camera level with it, bench card in the same plane."},
    {"key": "front", "name": "from the front", "position": 31, "sketch": "rear",
     "how": "Toe to the camera, level with the toe box; bench card in the plane of the toe."},
    {"key": "tongue-front", "name": "tongue, front", "position": 46, "sketch": "close", "close_up": True,
     "card_gap_mm": 0.5, "how": "Fill the frame with the tongue and its tag; a plain grey tile in the corner."},
    {"key": "tongue-back", "name": "tongue, back", "position": 47, "sketch": "close", "close_up": True,
     "card_gap_mm": 0.5, "how": "Folded forward, print and stitching sharp; the grey tile."},
    {"key": "inside-heel", "name": "inside, towards the heel", "position": 48, "sketch": "close", "close_up": True,
     "how": "Into the shoe with a soft light from the side; lining print and threads sharp."},
    {"key": "insole-face", "name": "insole, face", "position": 51, "sketch": "close", "close_up": True,
     "card_gap_mm": 0.5, "how": "Flat on the table, heel print and size in the frame; the grey tile.", "caution": PEEL},
    {"key": "insole-under", "name": "insole, underside", "position": 52, "sketch": "close", "close_up": True,
     "card_gap_mm": 0.5, "how": "Flat on the table, all of its glue in the frame; the grey tile.", "caution": PEEL},
    {"key": "footbed-board", "name": "footbed board", "position": 53, "sketch": "close", "close_up": True,
     "card_gap_mm": 0.5, "how": "Insole out: the board’s stitching, holes and stamps; the grey tile.", "caution": PEEL},
    {"key": "uv_side_in", "name": "side, inner, under UV", "position": 81, "sketch": "side", "one_sided": True, **UV},
    {"key": "uv_toe", "name": "toe, under UV", "position": 82, "sketch": "top", **UV},
    {"key": "uv_heel", "name": "heel, under UV", "position": 83, "sketch": "rear", **UV},
    {"key": "uv_sole", "name": "sole, under UV", "position": 84, "sketch": "sole", **UV},
    {"key": "uv_insole", "name": "insole, under UV", "position": 85, "sketch": "sole", **UV},
    {"key": "uv_inside", "name": "inside, under UV", "position": 86, "sketch": "top", **UV},
    {"key": "uv_box", "name": "box, outside, under UV", "position": 87, "sketch": "box", "feet": False, **UV},
    {"key": "uv_lid", "name": "box lid, under UV", "position": 88, "sketch": "box", "feet": False, **UV},
]


def seed(apps, _schema):
    """Add those that are not there yet; where a house made one of that key, its own stays."""
    view = apps.get_model("library", "View")
    for given in SEED:
        view.objects.get_or_create(key=given["key"], defaults=given)


class Migration(migrations.Migration):
    dependencies = [("library", "0008_views")]
    operations = [migrations.RunPython(seed, migrations.RunPython.noop)]
