"""One pick and one focus for everybody."""

import unittest

from scutcher.study.selection import Selection


class Looking(unittest.TestCase):
    def setUp(self):
        self.selection = Selection()
        self.heard = []
        self.selection.subscribe(lambda changed: self.heard.append(changed))

    def picked_after(self, *steps):
        for rows, how in steps:
            self.selection.pick(rows, how)
        return self.selection.look.picked

    def test_picking(self):
        self.assertEqual(self.picked_after(([3, 1, 3], "replace")), (3, 1))
        self.assertEqual(self.picked_after(([1, 5], "add")), (3, 1, 5))
        self.assertEqual(self.picked_after(([1, 7], "toggle")), (3, 5, 7))
        self.assertEqual(self.picked_after(([], "replace")), ())

    def test_only_real_changes_are_told(self):
        self.selection.change(channel=5.0, hovered=None)
        self.selection.change(channel=5.0)
        self.assertEqual(self.heard, [frozenset({"channel"})])

    def test_picks_go_by_name(self):
        self.selection.pick([0, 2])
        self.selection.keep_to(("a", "b", "c"), ("c", "d"))
        self.assertEqual(self.selection.look.picked, (0,))

    def test_rows_of_other_data_are_no_pick(self):
        """What random actions found: a page that still shows other data told a row that is not there."""
        self.selection.keep_to(("a", "b", "c"), ("c", "d"))
        self.assertEqual(self.picked_after(([1, 77, -1], "replace")), (1,))
        self.assertEqual(self.picked_after(([2], "add")), (1,))

    def test_leaving(self):
        heard = []
        leave = self.selection.subscribe(lambda changed: heard.append(changed))
        leave()
        self.selection.change(channel=1.0)
        self.assertEqual(heard, [])
