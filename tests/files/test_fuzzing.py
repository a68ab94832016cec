"""A few hundred mutated files of every kind; the bench reads fifty thousand."""

import json
import unittest

import numpy as np
from bench.fuzz_seeds import all_seeds
from bench.fuzzing import run
from bench.mutating import renumbered, revalued

from scutcher.files.content_seal import KEY, content_hash
from tests.folder import InFolder


class Fuzzing(InFolder):
    def test_only_clear_errors(self):
        found = run(500, seed=77)
        self.assertEqual(found.total(), 500)
        refused = sum(count for name, count in found.items() if name.endswith("refused"))
        self.assertGreater(refused, 150)
        self.assertGreater(500 - refused, 30)
        self.assertGreaterEqual({name.split()[0] for name in found}, {".csv", ".scutch", ".json", ".toml"})

    def test_what_it_begins_with_is_sound(self):
        """Or the fuzzer would see only what is refused at the door."""
        for suffix in (".scutch", ".json", ".toml", ".xls", ".ods", ".tif", ".parquet", ".npz"):
            one = next(seed for seed in all_seeds() if seed.suffix == suffix)
            path = self.folder / f"f{suffix}"
            path.write_bytes(one.content)
            with self.subTest(suffix):
                one.take(path)


class Mutating(unittest.TestCase):
    def test_a_seal_is_right_again(self):
        """Or nothing behind it would be tried."""
        plain = {"a": [1.0, 2.0], "b": {"c": "x"}, KEY: ""}
        rng, right, other = np.random.default_rng(1), 0, 0
        for _ in range(60):
            again = json.loads(revalued(json.dumps(plain).encode(), rng))
            if isinstance(again, dict) and KEY in again:
                right += again[KEY] == content_hash(again)
                other += {**again, KEY: ""} != plain
        self.assertGreater(right, 30)
        self.assertGreater(other, 40)

    def test_one_or_two_numbers_are_others(self):
        text = b'[[treat]]\nmethod = "snv"\nwidth = 7\nshare = 0.25\n'
        rng = np.random.default_rng(1)
        for _ in range(20):
            lines = zip(text.splitlines(), renumbered(text, rng).splitlines(), strict=True)
            self.assertIn(sum(a != b for a, b in lines), (0, 1, 2))


if __name__ == "__main__":
    unittest.main()
