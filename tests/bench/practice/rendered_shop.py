"""A small shop that sets a rendered shoe up through the actions that the pages call, in the database at hand."""

import json
from dataclasses import replace
from pathlib import Path
from uuid import uuid4

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile

from assay.errors import AssayError
from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.rules import DECISION_RULES
from assay.measure.registry import MEASURES
from casework.actions import work_photo
from casework.actions import work_retail_photo as retail_photo
from casework.actions.add_case_photo import add_case_photo
from casework.actions.add_check import add_check
from casework.actions.add_view import add_view
from casework.actions.analyse_case import analyse_case
from casework.actions.analyse_pair import analyse_pair
from casework.actions.keep_kit import set_grey_tile
from casework.actions.keep_library import keep_release
from casework.actions.keep_maker import keep_maker
from casework.actions.keep_pair import add_pair, add_pair_photo, verify_pair
from casework.actions.organisation_people import open_organisation
from casework.actions.save_intake import save_intake
from casework.actions.start_case import start_case
from casework.findings import assess, findings_of
from casework.grading import is_pending
from casework.retail import compares, quantity_of, uncertainty_of
from pairs.models import Pair
from pairs.queries import latest_readings

PLACES = {
    "side": ("side_out", "left"),
    "rear": ("rear", "left"),
    "emblem": ("emblem-close", "left"),
    "tongue": ("tongue-front", "left"),
    "uv": ("uv_side", "left"),
}
SUFFIX = {"flat": "", "block": "b", "lilac": "g"}
TILE_MM = 14.0
TILE_REFLECTANCE = 0.31
# name, view, measure, quantity, marks
CHECKS = (
    ("Heel row", "side", "seam", "", "rows:heel-row"),
    ("Stay row", "side", "seam", "", "rows:stay-row"),
    ("Cap row pitch", "side", "seam", "pitch_mm", "rows:cap-row"),
    ("Vents", "side", "holes", "", "around:vents"),
    ("Vents, against retail", "side", "holes", "missing", "around:vents"),
    ("Outline", "side", "outline", "p95_mm", "rim"),
    ("Toe height", "side", "profile_side", "toe_ratio", "rim"),
    ("Length", "side", "profile_side", "length_mm", "rim"),
    ("Emblem to heel panel", "side", "edge_distance", "", "marks:emblem-gap"),
    ("Emblem above the sole", "side", "edge_distance", "", "marks:emblem-foot"),
    ("Body shade", "side", "colour", "apart_dE00", "marks:body-patch"),
    ("Heel shade", "side", "colour", "apart_dE00", "marks:heel-patch"),
    ("Body against cap", "side", "contrast", "", "spots"),
    ("Hourglass", "rear", "profile_rear", "hourglass_ratio", "rim"),
    ("Heel waist", "rear", "profile_rear", "waist_mm", "rim"),
    ("Emblem row", "emblem", "seam", "", "rows:emblem-row"),
    ("Emblem row pitch", "emblem", "seam", "pitch_mm", "rows:emblem-row"),
    ("Emblem gap, close", "emblem", "edge_distance", "", "marks:emblem-gap"),
    ("Emblem turned", "emblem", "mark", "turned_deg", "emblem"),
    ("Emblem moved", "emblem", "mark", "across_mm", "emblem"),
    ("Suede texture", "emblem", "texture", "distance", "marks:body-patch"),
    ("Body shade, close", "emblem", "colour", "apart_dE00", "marks:body-patch"),
    ("Word turned", "tongue", "mark", "turned_deg", "word"),
    ("Word moved", "tongue", "mark", "across_mm", "word"),
    ("Word strokes", "tongue", "mark", "stroke_pct", "word"),
    ("Weave", "tongue", "weave", "", "marks:field-wide"),
    ("Patch grain", "tongue", "texture", "distance", "marks:patch"),
    ("Patch shade", "tongue", "colour", "apart_dE00", "marks:patch"),
    ("Lines and stamps", "uv", "glow", "drawn_beyond", "rim"),
)


def _loose(points, size, share: float = 0.06):
    """A loose region round places, as a person draws it."""
    points = np.asarray(points, float)
    low, high = points.min(0), points.max(0)
    room = share * (high - low).max()
    left, top = np.maximum(low - room, 2)
    right, bottom = np.minimum(high + room, np.array(size) - 3)
    return [[left, top], [right, top], [right, bottom], [left, bottom]]


def marks_of(known: dict, what: str) -> list:
    """What a guide writer clicks on the first verified pair's photograph."""
    kind, _, name = what.partition(":")
    size = known["size"]
    if kind == "rows":
        return known["rows"][name]["px"]
    if kind == "around":
        return _loose(known["holes"][name]["px"], size, 0.12)
    if kind == "rim":
        return _loose(known["rim"], size)
    marks = {key: one["px"] for key, one in known["marks"].items()}
    together = {
        "spots": lambda: [marks["spot-body"][0], marks["spot-cap"][0]],
        "emblem": lambda: [*marks["sole-edge"], *_loose(marks["emblem-round"], size, 0.05)],
        "word": lambda: [*marks["tag-edge"], *marks["word"]],
    }
    return together[kind]() if kind in together else marks[name]


class Shop:
    """One way of setting it up, in a database of its own."""

    def __init__(self, folder: Path, pairs: int, variant: str, *, scaled: bool) -> None:
        self.folder, self.variant, self.scaled = folder, variant, scaled
        self.truth = json.loads((folder / "truth.json").read_text())
        self.user = open_organisation(name="Shop", username="owner", first_name="O", password="a-long-password-1")
        self.organisation = self.user.organisations.get()
        set_grey_tile(organisation=self.organisation, user=self.user, reflectance=TILE_REFLECTANCE)
        given = {"name": "Veltrane", "style_code_mask": "AA-99999-A", "date_order": "DMY"}
        maker = keep_maker(organisation=self.organisation, user=self.user, given=given)
        given = {"maker": maker, "model": "Quayside Low", "colourway": "Brackish", "style_code": "VQ-44127-B"}
        given |= {"year": 2024, "generation": 1, "sizes_us": ["9"]}
        self.release = keep_release(organisation=self.organisation, user=self.user, given=given)
        view = {"name": "emblem close", "how": "Fill the frame.", "feet": True, "sketch": "close"}
        add_view(organisation=self.organisation, user=self.user, given=view | {"close_up": True})
        self.verified = [self._verified(name) for name in ("R1", "R2")[:pairs]]
        self._draw()
        for pair, name in zip(self.verified, ("R1", "R2"), strict=False):
            self._confirm_counts(pair, name)

    def files(self, pair: str) -> dict[str, Path]:
        side = f"{pair}{SUFFIX[self.variant]}"
        return {kind: self.folder / (side if kind == "side" else pair) / f"{kind}-left.jpg" for kind in PLACES}

    def known(self, pair: str, kind: str) -> dict:
        path = self.files(pair)[kind]
        return self.truth["photos"][f"{path.parent.name}/{path.stem}"]

    def _verified(self, name: str) -> Pair:
        given = {"size_us": "9", "region": "", "condition": "deadstock", "verified_how": "bought from the maker"}
        pair = add_pair(organisation=self.organisation, user=self.user, release=self.release, given=given)
        for kind, path in self.files(name).items():
            upload = SimpleUploadedFile(f"{kind}.jpg", path.read_bytes())
            photo = add_pair_photo(pair=pair, user=self.user, upload=upload)
            analyse_pair(pair=pair, user=self.user)
            photo.refresh_from_db()
            view, foot = PLACES[kind]
            retail_photo.sort_retail_photo(photo=photo, user=self.user, view=view, foot=foot)
            self._put_right(retail_photo, "retail_", {"photo": photo}, name, kind)
        analyse_pair(pair=pair, user=self.user)
        return verify_pair(pair=pair, user=self.user)

    def _put_right(self, actions, which: str, given: dict, name: str, kind: str) -> None:
        """What a person does to a photograph: says the lamp, clicks the tile for neutral, and for a scale."""
        marks, given = self.known(name, kind)["marks"], {**given, "user": self.user}
        if kind == "uv":
            getattr(actions, f"set_{which}photo_lamp")(**given, lamp="365f", away_mm=760)
        if "tile" not in marks:
            return
        tile = np.array(marks["tile"]["px"])
        getattr(actions, f"set_{which}photo_neutral")(**given, points=[tile.mean(0).tolist()], tile=True)
        if self.scaled:
            points = tile[[0, 1]] + np.random.default_rng(len(name + kind)).normal(0, 1.0, (2, 2))
            getattr(actions, f"scale_{which}photo")(**given, points=points.tolist(), lengths_mm=[TILE_MM])

    def _draw(self) -> None:
        used = {photo.view: photo for photo in self.verified[0].photos.all()}
        self.refused = {}
        for name, kind, measure, quantity, marks in CHECKS:
            given = {"name": name, "instruction": "Look.", "section": "All", "group": name.lower().replace(" ", "-")}
            given |= {"measure": measure, "quantity": quantity, "unit": MEASURES[measure].numbers[quantity]}
            given |= {"minutes": 0.5, "decisive": False, "mandatory": False, "size_rule": {}, "applies_when": []}
            try:
                points = [list(map(float, point)) for point in marks_of(self.known("R1", kind), marks)]
                add_check(
                    organisation=self.organisation,
                    photo=used[PLACES[kind][0]],
                    user=self.user,
                    points=points,
                    given=given,
                )
            except AssayError as error:
                self.refused[name] = error.reason

    def _confirm_counts(self, pair: Pair, name: str) -> None:
        """A guide writer goes through a verified pair's counts: those read right are confirmed, the others said."""
        true = self.true_counts(name)
        readings = latest_readings([pair])
        for check in self.release.checkpoints.filter(name__in=true):
            reading = readings.get((pair.pk, check.pk))
            photo = pair.photos.get(view=check.view)
            given = {"photo": photo, "checkpoint": check, "user": self.user}
            if reading is not None and reading.value == true[check.name]:
                retail_photo.confirm_retail_count(**given)
            else:
                retail_photo.correct_retail_count(**given, value=str(true[check.name]))

    def true_counts(self, name: str) -> dict[str, int]:
        """What a person would count on a pair's photographs."""
        side, close = self.known(name, "side"), self.known(name, "emblem")
        counted = {
            "Heel row": side["rows"]["heel-row"],
            "Stay row": side["rows"]["stay-row"],
            "Emblem row": close["rows"]["emblem-row"],
            "Vents": side["holes"]["vents"],
        }
        return {check: one["count"] for check, one in counted.items()}

    def examine(self, name: str) -> dict:
        """A suspect, as a checker would bring it in: photographs dropped, those that nobody could sort said, the lamp
        and the tile clicked."""
        case = start_case(user=self.user, typed_code="VQ-44127-B", token=uuid4())
        save_intake(case=case, user=self.user, facts={"size_us": "9", "condition": "deadstock"})
        for kind, path in self.files(name).items():
            upload = SimpleUploadedFile(f"{kind}.jpg", path.read_bytes())
            photo = add_case_photo(case=case, user=self.user, upload=upload)
            case.refresh_from_db()
            analyse_case(case=case, user=self.user)
            photo.refresh_from_db()
            if (photo.view, photo.foot) != PLACES[kind]:
                view, foot = PLACES[kind]
                work_photo.sort_photo(case=case, photo=photo, user=self.user, view=view, foot=foot)
            self._put_right(work_photo, "", {"case": case, "photo": photo}, name, kind)
            case.refresh_from_db()
            analyse_case(case=case, user=self.user)
        findings = findings_of(case)
        stand = assess(case, findings)
        flags = [finding for finding in findings if Grade(finding.grade) in RED_FLAGS]
        confirmed = [
            replace(one, pending=False, confirmed=True) if one.grade in RED_FLAGS else one for one in stand.sheet
        ]
        return {
            "rules": {rule.__name__: rule(stand.sheet, stand.policy).verdict.value for rule in DECISION_RULES},
            "confirmed": {rule.__name__: rule(confirmed, stand.policy).verdict.value for rule in DECISION_RULES},
            "flags": [_told(flag) for flag in flags],
            "compared": sum(finding.grade != "not_compared" for finding in findings),
            "of": len(CHECKS),
            "why": {finding.checkpoint.name: finding.reason for finding in findings if finding.grade == "not_compared"},
            "graded": {
                finding.checkpoint.name: _told(finding) for finding in findings if finding.grade != "not_compared"
            },
            "decibans": round(stand.if_confirmed.total, 1),
        }


def _told(finding) -> dict:
    value = quantity_of(finding.checkpoint, finding.reading, finding.compared)
    unsure = uncertainty_of(finding.checkpoint, finding.reading, finding.compared)
    retail = [round(one, 3) if isinstance(one, float) else one for _, one in finding.retail]
    return {
        "name": finding.checkpoint.name, "value": value, "u": unsure, "retail": retail, "grade": finding.grade,
        "retail_u": finding.retail_uncertainty, "pending": is_pending(finding),
        "counts": finding.checkpoint.kind == "count" and not compares(finding.checkpoint),
    }  # fmt: skip
