"""Blocks of one table as typed lines."""

import unittest

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.errors import RecipeError
from scutcher.core.recipes.block_parts import parts_of_text, text_of_parts
from scutcher.core.recipes.block_settings import Part

NM = Axis(tuple(f"{x:g}" for x in range(1100, 1200, 10)), np.arange(1100.0, 1200.0, 10.0), "wavelength", "nm")
BENCH = Axis(("lignin", "pectin", "wax", "ash"))


class Lines(unittest.TestCase):
    def test_stretches_in_the_ways_that_people_write_them(self):
        for dash in (" – ", "-", " to ", "..", "—"):
            low, high = parts_of_text(f"low: 1100{dash}1140\n\n high :1150,0{dash}1190\n", NM)
            self.assertEqual((low.name, low.first, low.last), ("low", 1100.0, 1140.0))
            self.assertEqual((high.name, high.first, high.last), ("high", 1150.0, 1190.0))

    def test_variables_by_name(self):
        first, second = parts_of_text("wood: lignin, pectin\nrest: wax,ash", BENCH)
        self.assertEqual((first.variables, second.variables), (("lignin", "pectin"), ("wax", "ash")))

    def test_what_is_suggested_can_be_read_back(self):
        for axis in (NM, BENCH):
            text = text_of_parts((), axis)
            self.assertEqual(text_of_parts(parts_of_text(text, axis), axis), text)
        kept = (Part(name="a", first=1100.0, last=1120.5), Part(name="b", first=1130.0, last=1190.0))
        self.assertEqual(parts_of_text(text_of_parts(kept, NM), NM), kept)

    def test_what_is_refused(self):
        for text, axis, said in (
            ("low: 1100 – 1140", NM, "1 blocks"),
            ("low 1100 – 1140\nhigh: 1150 – 1190", NM, "describes no block"),
            ("low: red\nhigh: 1150 – 1190", NM, "no stretch"),
            ("low: 1.1.0 – 4\nhigh: 1150 – 1190", NM, "no stretch"),
            ("low: 10 – 40\nhigh: 1150 – 1190", NM, "no channels"),
            ("a: 1100 – 1140\na: 1150 – 1190", NM, "called a"),
            ("a: lignin\nb: gold", BENCH, "no variable 'gold'"),
            ("\n".join(f"b{k}: 1100 – 1140" for k in range(6)), NM, "6 blocks"),
        ):
            with self.assertRaisesRegex(RecipeError, said):
                parts_of_text(text, axis)


if __name__ == "__main__":
    unittest.main()
