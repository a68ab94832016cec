"""Text is set on paper in a process of its own.

Thirty pages take some seconds of pure Python and leave 300,000 objects behind. In the window's process they
would hold up every frame, nobody could stop them, and their garbage would be a stand of its own.
"""

from __future__ import annotations

import json
import logging
import select
import subprocess
import sys
import tempfile
import threading
from functools import cache
from pathlib import Path
from typing import IO

from scutcher.core.errors import FileError
from scutcher.core.progress import Watch, tell
from scutcher.files.own_process import own_process

IDLE = 60.0
"""Seconds without work after which the process ends by itself."""

ASK = 0.05
"""Seconds from one question whether to go on to the next."""

PAGE, STYLE, MADE = "page.html", "style.css", "made.pdf"

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
                made = self._set(page, style, watch)
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
            process, folder = self._running()
            assert process.stdin is not None and process.stdout is not None
            (folder / PAGE).write_text(page, encoding="utf-8")
            (folder / STYLE).write_text(style, encoding="utf-8")
            process.stdin.write(
                b"\n"
            )  # a text itself would fill the pipe, and nobody could be asked meanwhile
            process.stdin.flush()
            while not comes(process.stdout, ASK):
                tell(watch, 0.0)
            answer = process.stdout.readline()
            ended = not answer.endswith(b"\n")
            if ended:
                return None
            told = json.loads(answer)
            if told is not None:
                raise FileError(*told)
            made = (folder / MADE).read_bytes()
            for name in (PAGE, STYLE, MADE):
                (folder / name).unlink()  # nobody's data stay there
            return made
        except BrokenPipeError:
            return None
        finally:
            if ended:  # stopped, too: what it is at is of no use any more
                self.end()

    def _running(self) -> tuple[subprocess.Popen[bytes], Path]:
        if self._process is None or self._folder is None or self._process.poll() is not None:
            self.end()
            self._folder = tempfile.TemporaryDirectory(prefix="scutcher-")
            command, own = own_process(__name__, self._folder.name, TMPDIR=self._folder.name)
            pipe = subprocess.PIPE
            self._process = subprocess.Popen(
                command, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL, env=own
            )
        return self._process, Path(self._folder.name)


@cache
def typesetter() -> Typesetter:
    """That of this program."""
    return Typesetter()


def comes(pipe: IO[bytes], seconds: float) -> bool:
    """Whether anything comes through a pipe within so many seconds, or its end."""
    poll = select.poll()  # `select` itself takes no descriptors above 1023
    poll.register(pipe, select.POLLIN)
    return bool(poll.poll(1000.0 * seconds))


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
        from weasyprint.urls import URLFetcher  # type: ignore[import-untyped]
    except OSError as error:
        raise NO_PANGO from error
    fonts = FontConfiguration()
    sheet = weasyprint.CSS(
        string=style, font_config=fonts, url_fetcher=URLFetcher(allowed_protocols=("file",))
    )
    # what is in the page itself, and nothing from elsewhere
    whole = weasyprint.HTML(string=page, url_fetcher=URLFetcher(allowed_protocols=("data",)))
    made: bytes = whole.write_pdf(stylesheets=[sheet], font_config=fonts)
    return made


def serve(asked: IO[bytes], answers: IO[bytes], folder: Path) -> None:
    """Set what lies in the folder whenever a line comes, until the other side ends or nothing comes for long.

    Answers a line of JSON: null, or what the trouble is and what to do.
    """
    while comes(asked, IDLE) and asked.readline():
        trouble = None
        try:
            page, style = ((folder / name).read_text(encoding="utf-8") for name in (PAGE, STYLE))
            (folder / MADE).write_bytes(set_here(page, style))
        except FileError as error:
            trouble = error.problem, error.remedy
        answers.write(json.dumps(trouble).encode() + b"\n")
        answers.flush()


if __name__ == "__main__":
    own, sys.stdout = sys.stdout.buffer, sys.stderr  # what a library prints is no answer
    serve(sys.stdin.buffer, own, Path(sys.argv[1]))
