"""What is kept of a thing for comparing comes back as it was."""

import json
from dataclasses import fields

import numpy as np
from django.test import SimpleTestCase

from assay.measure.registry import MEASURES
from pairs.comparisons import descriptor_kept, descriptor_of

HOW_IT_WAS_SCALED = "values_unit"


class KeptDescriptors(SimpleTestCase):
    def test_every_field_of_every_comparing_measure_survives_being_stored(self):
        for name, measure in MEASURES.items():
            if measure.comparing is None:
                continue
            with self.subTest(name):
                sample = measure.sample()
                found = measure.read(sample.picture, sample.marks(measure.marks))
                back = descriptor_of(json.loads(json.dumps(descriptor_kept(found, facing=-1))))
                self.assertEqual(back.facing, -1)
                for field in fields(back):
                    if field.name in ("facing", HOW_IT_WAS_SCALED):
                        continue
                    one, other = getattr(found.descriptor, field.name), getattr(back, field.name)
                    if isinstance(one, np.ndarray | float):
                        np.testing.assert_allclose(one, other, atol=1e-3, err_msg=field.name)
                    else:
                        self.assertEqual(one, other, field.name)
