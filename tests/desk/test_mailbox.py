"""Threads that post while the window that they work for is taken down."""

import gc
import threading
import time
import unittest
import weakref

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QWidget

from scutcher.desk.context import Mailbox
from tests.desk.driving import application, settle


class Posting(unittest.TestCase):
    def setUp(self):
        application()
        self.failed = []
        before = threading.excepthook
        threading.excepthook = self.failed.append
        self.addCleanup(setattr, threading, "excepthook", before)

    def gone(self, owner):
        owner.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def test_what_arrives_is_run_by_the_owner_s_thread_in_order(self):
        seen = []
        owner = QWidget()
        box = Mailbox(owner)
        threads = []

        def work(place):
            seen.append(place)
            threads.append(threading.current_thread())

        poster = threading.Thread(target=lambda: [box.post(lambda k=k: work(k)) for k in range(20)])
        poster.start()
        poster.join()
        settle()
        self.assertEqual(seen, list(range(20)))
        self.assertEqual(set(threads), {threading.main_thread()})
        self.gone(owner)

    def test_nothing_fails_and_nothing_runs_when_the_owner_goes_meanwhile(self):
        for _ in range(20):
            owner, seen, stop = QWidget(), [], threading.Event()
            box = Mailbox(owner)

            def busy(box=box, seen=seen, stop=stop):
                while not stop.is_set():
                    box.post(lambda: seen.append(1))
                    time.sleep(0)

            poster = threading.Thread(target=busy)
            poster.start()
            settle()
            self.gone(owner)
            known = len(seen)
            settle()
            stop.set()
            poster.join()
            settle()
            self.assertEqual(len(seen), known)
        self.assertEqual(self.failed, [])

    def test_the_box_does_not_keep_its_owner(self):
        owner = QWidget()
        kept = weakref.ref(owner)
        Mailbox(owner)
        self.gone(owner)
        del owner
        gc.collect()
        self.assertIsNone(kept())


if __name__ == "__main__":
    unittest.main()
