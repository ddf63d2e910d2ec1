"""Style codes as people type them."""

from django.test import SimpleTestCase

from assay.paperwork.signs import WrongAlphabet
from assay.paperwork.style_code import UnreadableCode, compare, normalise

# Six figures for the model and three for the colour: common practice, no source.
SIX_THREE = "999999-999"
LETTERED = "AA-99999-A"


class Normalising(SimpleTestCase):
    def test_spaces_dashes_case_and_lookalikes_do_not_matter(self):
        for typed in ("305518-402", "305518 402", " 3O55I8.4O2 ", "305518402"):
            self.assertEqual(normalise(typed, SIX_THREE), "305518-402")
        self.assertEqual(normalise("vq–44l27–8", LETTERED), "VQ-44127-B")

    def test_a_sign_that_cannot_be_meant_is_named_with_its_place(self):
        with self.assertRaises(UnreadableCode) as caught:
            normalise("3055W8402", SIX_THREE)
        self.assertEqual((caught.exception.reason, caught.exception.numbers["position"]), ("wrong_sign", 5))

    def test_wrong_length_and_letters_of_another_alphabet_are_refused(self):
        for typed in ("", "30551-402", "3055180-4021"):
            with self.assertRaises(UnreadableCode):
                normalise(typed, SIX_THREE)
        with self.assertRaises(WrongAlphabet) as caught:
            normalise("VQ-44127-В", LETTERED)
        self.assertEqual((caught.exception.numbers["position"], caught.exception.numbers["script"]), (10, "Cyrillic"))
        self.assertEqual(normalise("VQ-４4127-B", LETTERED), "VQ-44127-B")


class Comparing(SimpleTestCase):
    def test_it_says_which_sign_differs_and_whether_it_may_be_misread(self):
        found = compare("VQ-44127-B", "VQ-44127-8")
        self.assertEqual(
            [(d.position, d.expected, d.found, d.lookalike) for d in found.differences], [(10, "B", "8", True)]
        )
        self.assertTrue(compare("305518-402", "305518-402").same)
        self.assertEqual([d.position for d in compare("305518-402", "305518-4").differences], [9, 10])
