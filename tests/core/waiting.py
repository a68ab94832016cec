"""How long other threads wait while something is computed."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from scutcher.core.numeric.threads import one_thread


def longest_wait(work: Callable[[], object]) -> float:
    """The longest time that this thread did not get on while another worked, as a share of the whole time."""
    done = threading.Event()

    def run() -> None:
        with one_thread():
            work()
        done.set()

    thread = threading.Thread(target=run)
    began = last = time.perf_counter()
    longest = 0.0
    thread.start()
    while not done.is_set():
        now = time.perf_counter()
        longest, last = max(longest, now - last), now
    thread.join()
    return longest / (time.perf_counter() - began)
