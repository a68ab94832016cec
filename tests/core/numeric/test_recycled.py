"""Memory of a large array is used again, and never while anybody can still see it."""

import gc
import threading
import unittest
from unittest import mock

import numpy as np

from scutcher.core.numeric import recycled as module
from scutcher.core.numeric.recycled import recycled

SHAPE = 1000, 30


class Recycled(unittest.TestCase):
    def setUp(self):
        for name, value in (("LARGE", 1000), ("MOST_KEPT", 600_000), ("_blocks", module._Blocks())):
            patch = mock.patch.object(module, name, value)
            patch.start()
            self.addCleanup(patch.stop)

    def waiting(self):
        return [len(block) for block in module._blocks._free]

    def test_it_is_an_array_like_any_other(self):
        for kind in (float, np.float32):
            made = recycled(SHAPE, kind)
            self.assertEqual((made.shape, made.dtype), (SHAPE, np.dtype(kind)))
            self.assertTrue(made.flags.c_contiguous and made.flags.writeable and made.flags.aligned)
            made[:] = np.arange(30)
            np.testing.assert_array_equal(made[7], np.arange(30))

    def test_the_next_one_gets_its_memory(self):
        made = recycled(SHAPE)
        where = made.ctypes.data
        self.assertEqual(self.waiting(), [])
        del made
        self.assertEqual(self.waiting(), [240_000])
        self.assertEqual(recycled((990, 30)).ctypes.data, where)  # a little less will do
        held = recycled((500, 30))
        self.assertNotEqual(held.ctypes.data, where)  # much of it would lie idle
        self.assertEqual(sorted(self.waiting()), [240_000])

    def test_not_while_anybody_sees_a_part_of_it(self):
        gc.disable()  # it comes back at once, not when somebody tidies up
        self.addCleanup(gc.enable)
        for part in (
            lambda made: made[3:5].T,
            lambda made: made.reshape(-1)[10:],
            lambda made: memoryview(made),
            lambda made: np.asarray(made).view(np.int64),
            lambda made: [made],
        ):
            made = recycled(SHAPE)
            made[:] = 5.0
            seen = part(made)
            del made
            self.assertEqual(self.waiting(), [])
            recycled(SHAPE)[:] = 9.0
            self.assertEqual(self.waiting(), [240_000])
            self.assertTrue((np.asarray(seen).view(float) == 5.0).all())
            del seen
            self.assertEqual(self.waiting(), [240_000, 240_000])
            module._blocks._free.clear()

    def test_little_waits_and_what_waited_longest_goes_first(self):
        several = [recycled((1000 + 300 * more, 30)) for more in range(3)]
        while several:
            several.pop(0)
        self.assertEqual(self.waiting(), [384_000])
        self.assertTrue(recycled((9_999, 30)).flags.owndata)  # more than may wait is never kept
        self.assertTrue(recycled((2, 30)).flags.owndata)

    def test_threads_never_share_one(self):
        wrong = []

        def work(number):
            for _ in range(300):
                made = recycled(SHAPE)
                made[:] = number
                if not (made == number).all():
                    wrong.append(number)

        threads = [threading.Thread(target=work, args=(number,)) for number in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(wrong, [])


if __name__ == "__main__":
    unittest.main()
