"""Everybody is told once; one that fails does not silence the others."""

import unittest

from scutcher.study.document.announcer import Announcer


class Telling(unittest.TestCase):
    def test_a_listener_that_fails_does_not_silence_the_others(self):
        source, heard = Announcer(), []

        def fail(changed):
            raise IndexError("a mistake")

        source.subscribe(lambda changed: heard.append(("first", changed)))
        source.subscribe(fail)
        source.subscribe(lambda changed: heard.append(("last", changed)))
        with self.assertRaises(IndexError):
            source.announce({"table"})
        self.assertEqual(heard, [("first", frozenset({"table"})), ("last", frozenset({"table"}))])

    def test_nothing_changed_nobody_is_told(self):
        source, heard = Announcer(), []
        leave = source.subscribe(heard.append)
        source.announce(())
        leave()
        source.announce({"table"})
        self.assertEqual(heard, [])


if __name__ == "__main__":
    unittest.main()
