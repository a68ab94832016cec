"""Groups of samples that stay together when samples are left out."""

import unittest
from dataclasses import replace

from scutcher.core.validation.segments import group_codes, group_count, groups_of
from tests.core.making import ordered_table, random_spectra


class Groups(unittest.TestCase):
    def test_replicates_make_a_group_and_samples_without_an_id_one_each(self):
        table = ordered_table(random_spectra(6, 4))
        self.assertEqual(group_count(table), 6)
        for ids in (("a", "b", "a", "", "b", ""), ("",) * 6, ("a",) * 6):
            grouped = replace(table, replicates=ids)
            self.assertEqual(group_count(grouped), len(groups_of(grouped)))
            self.assertEqual(group_count(grouped), len(set(group_codes(grouped).tolist())))


if __name__ == "__main__":
    unittest.main()
