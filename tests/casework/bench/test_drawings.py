"""What is drawn stands where the numbers say."""

from types import SimpleNamespace
from unittest import TestCase

from assay.judge import spread
from casework.bench.drawings import BASE_Y, CURVE_WIDTH, boxes, focus, marks_drawn, signs, spread_drawing
from casework.bench.stage import _one_scale


class Drawings(TestCase):
    def test_focus_frames_the_marks_and_never_creeps_closer_than_it_should(self):
        self.assertEqual(focus([[100, 100], [500, 200]], (900, 600)), [-40, 65, 680, 170])
        self.assertEqual(focus([[300, 300]], (900, 600)), [220, 220, 160, 160])
        self.assertEqual(focus([], (900, 600)), [0, 0, 900, 600])

    def test_the_likeliest_count_is_tallest_and_this_pair_is_pointed_at(self):
        drawing = spread_drawing(spread.counts([12, 12, 12], prior_pairs=2, off_by_one=0.004), 15, [])
        tallest = max(drawing["bars"], key=lambda bar: bar["h"])
        self.assertEqual(
            (tallest["text"], drawing["value"]), ("12", next(b["middle"] for b in drawing["bars"] if b["here"]))
        )
        self.assertEqual(next(bar["text"] for bar in drawing["bars"] if bar["here"]), "15")

    def test_an_outlying_pitch_stays_on_the_picture(self):
        known = spread.continuous([2.1, 2.2, 2.2], prior_scatter=0.05, prior_pairs=4)
        for value in (2.17, 9.0, None):
            drawing = spread_drawing(known, value, [["R1", 2.1]])
            self.assertTrue(drawing["value"] is None or 0 <= drawing["value"] <= CURVE_WIDTH)
            ys = [float(pair.split(",")[1]) for pair in drawing["line"].split()]
            self.assertTrue(all(0 <= y <= BASE_Y for y in ys))

    def test_codes_are_laid_sign_by_sign(self):
        self.assertEqual([sign["same"] for sign in signs("VQ-1", "VQ-12")], [True, True, True, True, False])

    def test_boxes_stand_on_one_floor_to_one_scale(self):
        drawn = boxes((350, 240, 120), (340, 240, 110))
        (long_retail, _), (long_found, _) = drawn["retail"], drawn["found"]
        self.assertAlmostEqual(long_retail["y"] + long_retail["h"], long_found["y"] + long_found["h"], 0)
        self.assertAlmostEqual(long_found["w"] / long_retail["w"], 340 / 350, 2)
        self.assertEqual(boxes((350, 240, 120), None)["found"], [])

    def test_long_rows_are_numbered_in_fives(self):
        ticks = [{"kind": "tick", "points": [[n, 0], [n, 9]], "label": str(n), "radius_px": 0} for n in range(1, 18)]
        self.assertEqual([d["label"] for d in marks_drawn(ticks) if d["label"]], ["1", "5", "10", "15", "17"])
        self.assertEqual(len([d for d in marks_drawn(ticks[:15]) if d["label"]]), 15)

    def test_ring_numbers_stand_beside_the_hole_not_in_it(self):
        ring = {"kind": "ring", "points": [[50.0, 60.0]], "label": "3", "radius_px": 8.0}
        drawn = marks_drawn([ring])[0]
        self.assertEqual((drawn["cx"], drawn["cy"]), (50, 60))
        self.assertTrue(drawn["lx"] > 50 and drawn["ly"] < 60)

    def test_both_halves_of_the_stage_show_as_many_mm_and_all_that_is_marked(self):
        def side(step, box, *corners):
            handles = [{"x": x, "y": y} for x, y in corners]
            return {"photo": SimpleNamespace(mm_per_px=step), "handles": handles, "box": box}

        marked = ((500, 200), (1500, 800)), ((150, 60), (680, 330))
        both = [side(0.1, [0, 0, 2000, 1000], *marked[0]), side(0.2, [100, 50, 600, 300], *marked[1])]
        _one_scale(both)
        (wide, high), (other_wide, other_high) = (one["box"][2:] for one in both)
        self.assertAlmostEqual(wide * 0.1, other_wide * 0.2, places=1)
        self.assertAlmostEqual(high * 0.1, other_high * 0.2, places=1)
        self.assertGreaterEqual(other_wide, 530)
        x, y, wide, high = both[1]["box"]
        self.assertEqual((round(x + wide / 2), round(y + high / 2)), (400, 200), "about its own middle")
        alone = [side(None, [0, 0, 9, 9], (1, 1)), side(0.1, [0, 0, 5, 5], (1, 1))]
        _one_scale(alone)
        self.assertEqual(alone[0]["box"], [0, 0, 9, 9], "without a scale nothing is said")
