"""The packed digits of JCAMP-DX, against an encoder written for these tests."""

import unittest

import numpy as np

from scutcher.core.errors import FileError
from scutcher.files.jcamp_numbers import decode_packed, decode_plain, is_packed

SQUEEZED = {False: "@ABCDEFGHI", True: "@abcdefghi"}
DIFFERENCE = {False: "%JKLMNOPQR", True: "%jklmnopqr"}
DUPLICATE = " STUVWXYZs"


def digits(value, letters):
    """A number whose first digit is a letter that also says its sign."""
    text = str(abs(value))
    return letters[value < 0][int(text[0])] + text[1:]


def counted(times):
    """A repeat count whose first digit is a letter."""
    text = str(times)
    return DUPLICATE[int(text[0])] + text[1:]


def packed(x, ys):
    """A line as an instrument writes it: first squeezed, then differences, repeats of differences counted."""
    text, place = f"{x}{digits(ys[0], SQUEEZED)}", 1
    while place < len(ys):
        step, times = ys[place] - ys[place - 1], 1
        while place + times < len(ys) and ys[place + times] - ys[place + times - 1] == step:
            times += 1
        text += digits(step, DIFFERENCE) + (counted(times) if times > 1 else "")
        place += times
    return text


class Packed(unittest.TestCase):
    def test_there_and_back(self):
        rng = np.random.default_rng(5)
        for turn in range(300):
            steps = rng.choice([0, 0, 0, 1, -1, 7, -12, 350, -999], size=rng.integers(1, 60))
            ys = np.cumsum(np.r_[rng.integers(-5000, 5000), steps]).tolist()
            line = decode_packed(turn, packed(400 + turn, ys))
            self.assertEqual(line.ys, ys)
            self.assertEqual((line.number, line.x), (turn, str(400 + turn)))
            self.assertEqual(line.ends_in_difference, len(ys) > 1)

    def test_the_standard_s_own_kinds_of_digits(self):
        self.assertEqual(decode_packed(1, "1A0b5C").ys, [10, -25, 3])  # squeezed only
        self.assertEqual(decode_packed(1, "1+10-25+3").ys, [10, -25, 3])  # signs as delimiters
        self.assertEqual(decode_packed(1, "1A0J2l").ys, [10, 22, 19])
        self.assertEqual(decode_packed(1, "1A0S2").ys, [10] * 12)  # a value repeated, the count of two digits
        self.assertEqual(decode_packed(1, "1A0J1T").ys, [10, 21, 32])  # a difference repeated
        self.assertFalse(decode_packed(1, "1A0J1TB0").ends_in_difference)
        self.assertEqual(decode_packed(1, "A00@B5").x, "100")
        gap = decode_packed(1, "1A0?C").ys
        self.assertTrue(np.isnan(gap[1]))
        self.assertEqual(gap[::2], [10, 3])

    def test_an_e_after_a_number_is_a_digit_here_and_an_exponent_in_plain_lines(self):
        self.assertEqual(decode_packed(1, "100E5E6").ys, [55, 56])
        self.assertEqual(decode_plain(1, "100 5E2 -1.5e-1").ys, [500.0, -0.15])
        self.assertTrue(is_packed(["100E5E6"]))
        self.assertFalse(is_packed(["100 5E2", "101 6E2"]))
        self.assertTrue(is_packed(["100A5"]))

    def test_plain_lines(self):
        line = decode_plain(8, "4000, 1.5; -2 .5 ? +3")
        self.assertEqual((line.number, line.x), (8, "4000"))
        self.assertTrue(np.isnan(line.ys[3]))
        self.assertEqual(line.ys[:3] + line.ys[4:], [1.5, -2.0, 0.5, 3.0])

    def test_what_is_not_numbers_names_its_line(self):
        for decode, text in (
            (decode_packed, "1!A0"),
            (decode_packed, "1J5"),  # a difference from nothing
            (decode_packed, "1S5"),  # a repeat of nothing
            (decode_packed, "1A0S99999999"),  # a hundred megabytes of one value
            (decode_packed, "what is this"),
            (decode_plain, "4000 1.5 abc"),
            (decode_plain, ""),
        ):
            with self.subTest(text), self.assertRaises(FileError) as caught:
                decode(17, text)
            self.assertIn("Line 17 is not JCAMP-DX numbers", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
