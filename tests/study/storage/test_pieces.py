"""Arrays in pieces: what goes in comes out, to the bit, and what was changed is refused."""

import unittest
from unittest import mock

import msgspec
import numpy as np

from scutcher.core.errors import FileError
from scutcher.study.storage import pieces
from scutcher.study.storage.pieces import array_content, content_of, list_content


def round_trip(content):
    stored = content.stored
    parts = dict(zip(stored.pieces, (bytes(part) for part in content.parts()), strict=True))
    return content_of(stored, parts.get)


class Pieces(unittest.TestCase):
    def test_arrays_come_back_to_the_bit_whatever_the_size_of_a_piece(self):
        rng = np.random.default_rng(1)
        for shape in ((0, 3), (1, 1), (7, 5), (40, 3), (12,)):
            values = rng.normal(size=shape)
            values[values > 2.0] = np.nan
            for size in (8, 64, 1 << 20):
                with self.subTest(shape=shape, size=size), mock.patch.object(pieces, "PIECE", size):
                    back = round_trip(array_content(values))
                    np.testing.assert_array_equal(back, values)
                    self.assertFalse(back.flags.writeable)

    def test_what_single_precision_holds_exactly_takes_half_the_place(self):
        single = np.random.default_rng(2).normal(size=(600, 300)).astype(np.float32)
        single[3, 4] = np.nan
        exact = array_content(single.astype(np.float64))
        self.assertEqual(exact.stored.kind, "<f4")
        np.testing.assert_array_equal(round_trip(exact), single)
        double = single.astype(np.float64)
        double[0, 0] += 1e-12
        self.assertEqual(array_content(double).stored.kind, "<f8")
        np.testing.assert_array_equal(round_trip(array_content(double)), double)
        self.assertEqual(array_content(np.full((600, 300), 1e300)).stored.kind, "<f8")

    def test_lists(self):
        for texts in ((), ("a",), ("Größe", "", "a\nb", "<b>")):
            self.assertEqual(round_trip(list_content(texts)), texts)

    def test_the_same_content_has_the_same_name(self):
        values = np.arange(12.0).reshape(3, 4)
        name = array_content(values).stored.hash
        self.assertEqual(array_content(values.copy()).stored.hash, name)
        self.assertNotEqual(array_content(values.reshape(4, 3)).stored.hash, name)
        self.assertNotEqual(array_content(values + 1e-9).stored.hash, name)

    def test_a_changed_missing_or_short_piece_is_refused(self):
        with mock.patch.object(pieces, "PIECE", 64):
            content = array_content(np.arange(24.0))
            parts = dict(zip(content.stored.pieces, (bytes(part) for part in content.parts()), strict=True))
            first = content.stored.pieces[0]
            wrong = (
                ({**parts, first: b"\0" * 64}, "changed bytes"),
                ({name: part for name, part in parts.items() if name != first}, "lacks a part"),
            )
            for changed, words in wrong:
                with self.subTest(words), self.assertRaisesRegex(FileError, words):
                    content_of(content.stored, changed.get)
            for field, value in (("shape", (25,)), ("shape", (-24,)), ("kind", "O"), ("pieces", ())):
                claimed = msgspec.structs.replace(content.stored, **{field: value})
                with self.subTest(field), self.assertRaisesRegex(FileError, "says it is"):
                    content_of(claimed, parts.get)


if __name__ == "__main__":
    unittest.main()
