"""Text is set on paper in a process of its own.

Thirty pages take some seconds of pure Python and leave 300,000 objects behind. In the window's process they
would hold up every frame, nobody could stop them, and their garbage would be a stand of its own.
"""

from __future__ import annotations

import json
import logging
import os
import select
import subprocess
import sys
import tempfile
import threading
from functools import cache
from typing import IO

from scutcher.core.errors import FileError
from scutcher.core.progress import Watch, pulse, tell
from scutcher.files.arrays.apart import PACKAGES

IDLE = 60.0
"""Seconds without work after which the process ends by itself."""

ASK = 0.05
"""Seconds from one question whether to go on to the next."""

NO_PANGO = FileError(
    "PDF needs the system library Pango, which is not installed.",
    "Write the report as HTML, or install the package libpangoft2-1.0-0.",
)
BROKEN = FileError("The pages could not be set.", "Write the report as HTML, or try again.")


class Typesetter:
    """One process that is kept at hand while there is work; one text at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None

    def pdf(self, page: str, style: str, watch: Watch | None = None) -> bytes:
        """A page of HTML, with one more style sheet, as the bytes of a PDF.

        Raises
        ------
        FileError
            The system has no library to set text with, or the process broke.
        Stopped
            The watch answers False.
        """
        with self._lock:
            for _ in range(2):  # one that was at hand may just have ended: a fresh one has not
                fresh = self._process is None or self._process.poll() is not None
                made = self._set(page, style, pulse(watch))
                if made is not None:
                    return made
                if fresh:
                    break
            raise BROKEN

    def end(self) -> None:
        """End the process; the next text gets another."""
        process, self._process = self._process, None
        folder, self._folder = self._folder, None
        if process is not None:
            process.kill()
            process.communicate()
        if folder is not None:
            folder.cleanup()

    def _set(self, page: str, style: str, watch: Watch | None) -> bytes | None:
        """The bytes, or nothing where the process has ended."""
        ended = True
        try:
            process = self._running()
            assert process.stdin is not None and process.stdout is not None
            send(process.stdin, page.encode(), style.encode())
            while not select.select([process.stdout], [], [], ASK)[0]:
                tell(watch, 0.0)
            answer = receive(process.stdout)
            ended = answer is None
        except (BrokenPipeError, ConnectionError):
            return None
        finally:
            if ended:  # stopped, too: what it is at is of no use any more
                self.end()
        if answer is None:
            return None
        trouble, made = answer
        if trouble:
            told = json.loads(trouble)
            raise FileError(told["problem"], told["remedy"])
        return made

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            self.end()
            self._folder = tempfile.TemporaryDirectory(prefix="scutcher-")
            own = {**os.environ, "PYTHONPATH": str(PACKAGES), "TMPDIR": self._folder.name}
            # -P, or a numpy.py in the folder of now would be run in place of NumPy
            command = [sys.executable, "-P", "-m", __name__]
            pipe = subprocess.PIPE
            self._process = subprocess.Popen(
                command, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL, env=own
            )
        return self._process


@cache
def typesetter() -> Typesetter:
    """That of this program."""
    return Typesetter()


def send(pipe: IO[bytes], *parts: bytes) -> None:
    """Parts, with their lengths before them."""
    pipe.write(json.dumps([len(part) for part in parts]).encode() + b"\n")
    for part in parts:
        pipe.write(part)
    pipe.flush()


def receive(pipe: IO[bytes]) -> list[bytes] | None:
    """What was sent; nothing where the other side has ended."""
    line = pipe.readline()
    if not line.endswith(b"\n"):
        return None
    parts = [pipe.read(length) for length in json.loads(line)]
    whole = [len(part) for part in parts] == json.loads(line)
    return parts if whole else None


def set_here(page: str, style: str) -> bytes:
    """In the other process: the bytes of a PDF.

    Raises
    ------
    FileError
        The system has no library to set text with.
    """
    try:
        import weasyprint  # type: ignore[import-untyped]

        logging.getLogger("weasyprint").setLevel(logging.ERROR)  # it speaks of its own parts
        from weasyprint.text.fonts import FontConfiguration  # type: ignore[import-untyped]
    except OSError as error:
        raise NO_PANGO from error
    fonts = FontConfiguration()
    sheet = weasyprint.CSS(string=style, font_config=fonts)
    made: bytes = weasyprint.HTML(string=page).write_pdf(stylesheets=[sheet], font_config=fonts)
    return made


def serve(asked: IO[bytes], answers: IO[bytes]) -> None:
    """Set what comes in, until the other side ends or nothing comes for a while."""
    while select.select([asked], [], [], IDLE)[0]:
        parts = receive(asked)
        if parts is None:
            return
        try:
            send(answers, b"", set_here(*(part.decode() for part in parts)))
        except FileError as error:
            trouble = {"problem": error.problem, "remedy": error.remedy}
            send(answers, json.dumps(trouble).encode(), b"")


if __name__ == "__main__":
    own, sys.stdout = sys.stdout.buffer, sys.stderr  # what a library prints is no answer
    serve(sys.stdin.buffer, own)
