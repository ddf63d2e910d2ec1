"""Two colours: judged as a vector, so that no exposure hides another hue."""

import numpy as np
from django.test import SimpleTestCase

from assay.compare.tone import COMPARING, KIND, compare
from assay.contracts import Descriptor, Light, MarkKind, Marks, Picture
from assay.imaging.colour import lab_to_linear, linear_to_lab, linear_to_srgb
from assay.imaging.region import in_true_light
from assay.imaging.white_balance import correction_from_neutral
from assay.judge.grade import Grade
from assay.judge.judgement import Kind, Prior, judge
from assay.measure import colour

NONE = np.zeros((0, 2))
EMBLEM = (52.0, 8.0, -22.0)


def tone(lab, light=Light.SAME_FRAME, u_hue=1.3, u_exposure=0.25):
    return Descriptor(KIND, NONE, NONE, "mm", values=np.array([[*lab, 2.5, u_hue, u_exposure]]), light=light)


def graded(suspect) -> tuple[float, Grade]:
    """How far it lies from three retail pairs, that lie within 1.5 dE00 of each other, and its grade."""
    retail = [tone(np.add(EMBLEM, step)) for step in ((0, 0, 0), (0.8, 0.3, 0.5), (-0.7, 0.5, -0.6))]

    def apart(ours, theirs):
        found = [compare(their, ours).parts for their in theirs]
        return (float(np.median([one[name] for one in found])) for name in ("apart_dE00", "apart_dE00_uncertainty"))

    beside = [list(apart(one, [other for other in retail if other is not one])) for one in retail]
    value, u = apart(tone(suspect), retail)
    prior = Prior(2, 1.0, compares=True, magnitude=True, floor=COMPARING.floors["apart_dE00"], typical=1.0)
    values, unsure = zip(*beside, strict=True)
    return value, judge(Kind.CONTINUOUS, values, value, prior, uncertainty=u, retail_uncertainty=unsure).grade


class Tones(SimpleTestCase):
    def test_a_stronger_and_bluer_emblem_departs_however_it_was_exposed(self):
        """7.9 dE00 off, stronger by 14 and bluer by 14: once put down to the exposure, and graded *agrees*."""
        for light in (0.85, 1.0, 1.2):
            other = linear_to_lab(light * lab_to_linear(np.add(EMBLEM, (-2.0, 2.5, -14.0))))
            apart, grade = graded(other)
            self.assertGreater(apart, 5)
            self.assertNotEqual(grade, Grade.AGREES, light)

    def test_a_tile_that_lay_nearer_to_the_lamp_makes_no_other_colour(self):
        """25 mm nearer at 900 mm it has 5.6 % more light than the panel: 1.4 dE00 of a pale one, claimed to 0.5."""
        panel = lab_to_linear(np.array([75.0, 2.0, 10.0]))
        told = []
        for nearer in (1.0, 1.056):
            rgb = np.full((200, 300, 3), linear_to_srgb(panel)).round().astype(np.uint8)
            rgb[:, :100] = linear_to_srgb(np.full(3, 0.31 * nearer)).round()
            light = correction_from_neutral(rgb, (50, 100), reflectance=0.31)
            marks = Marks(MarkKind.REGION, ((120, 10), (290, 10), (290, 190), (120, 190)))
            told.append(colour.measure(in_true_light(Picture(rgb), light), marks).descriptor)
        parts = compare(*told).parts
        self.assertLess(parts["apart_dE00"], 2 * parts["apart_dE00_uncertainty"])

    def test_a_longer_exposure_alone_is_no_other_colour_beside_a_neutral_and_is_one_under_the_card(self):
        brighter = linear_to_lab(1.25 * lab_to_linear(np.array(EMBLEM)))
        apart, grade = graded(brighter)
        self.assertLess(apart, 1.5)
        self.assertEqual(grade, Grade.AGREES)
        card = [tone(lab, Light.CARD, 0.7, 0.0) for lab in (EMBLEM, brighter)]
        self.assertGreater(compare(*card).parts["apart_dE00"], 3)
