"""What is computed once: kept, the same for all threads, and nobody waits for another object's."""

import threading
import unittest

from scutcher.core.computed_once import computed_once

PATIENCE = 60.0


class Slow:
    def __init__(self, number, go=None):
        self.number, self.go, self.begun, self.times = number, go, threading.Event(), 0

    @computed_once
    def square(self):
        """Its square."""
        self.times += 1
        self.begun.set()
        if self.go is not None:
            self.go.wait(PATIENCE)
        return [self.number**2]


class Once(unittest.TestCase):
    def test_it_is_computed_once_and_is_no_method(self):
        one = Slow(3)
        self.assertEqual(one.square, [9])
        self.assertIs(one.square, one.square)
        self.assertEqual((one.times, Slow.square.__doc__), (1, "Its square."))

    def test_who_asks_one_object_does_not_wait_for_another(self):
        go = threading.Event()
        slow, quick = Slow(2, go), Slow(5)
        behind = threading.Thread(target=lambda: slow.square)
        behind.start()
        self.assertTrue(slow.begun.wait(PATIENCE))
        asked = threading.Thread(target=lambda: quick.square)
        asked.start()
        asked.join(5.0)
        waits = asked.is_alive()
        go.set()
        behind.join()
        asked.join()
        self.assertFalse(waits)

    def test_two_threads_get_the_same(self):
        go, found = threading.Event(), []
        one = Slow(7, go)
        threads = [threading.Thread(target=lambda: found.append(one.square)) for _ in range(2)]
        for thread in threads:
            thread.start()
        self.assertTrue(one.begun.wait(PATIENCE))
        go.set()
        for thread in threads:
            thread.join()
        self.assertIs(found[0], found[1])


if __name__ == "__main__":
    unittest.main()
