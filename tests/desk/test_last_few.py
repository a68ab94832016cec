"""The last few are kept, and what was asked for longest ago is made again."""

import unittest

from scutcher.desk.last_few import LastFew


class Kept(unittest.TestCase):
    def test_what_is_asked_for_again_stays(self):
        made, few = [], LastFew(2)

        def get(key):
            return few.get(key, lambda: made.append(key) or f"of {key}")

        self.assertEqual([get(key) for key in "abab"], ["of a", "of b", "of a", "of b"])
        self.assertEqual(made, ["a", "b"])
        for key in "aca":
            get(key)
        self.assertEqual((made, len(few)), (["a", "b", "c"], 2))
        get("b")
        self.assertEqual(made[3:], ["b"])
        few.clear()
        self.assertEqual(len(few), 0)

    def test_nothing_is_kept_of_what_cannot_be_made(self):
        few = LastFew(2)
        few.get(1, lambda: None)
        with self.assertRaises(ZeroDivisionError):
            few.get(2, lambda: 1 // 0)
        self.assertIsNone(few.get(1, lambda: "made again"))
        self.assertEqual(len(few), 1)


if __name__ == "__main__":
    unittest.main()
