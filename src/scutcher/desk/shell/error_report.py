"""What happens when something breaks: users' errors become messages, bugs a report to copy."""

from __future__ import annotations

import sys
import threading
import traceback
from collections.abc import Callable
from types import TracebackType

from scutcher import __version__
from scutcher.core.errors import InputError


def install(say: Callable[[InputError], None], show_report: Callable[[str], None]) -> None:
    """Catch what no slot caught: an InputError goes to the message bar, anything else becomes a report."""

    def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if isinstance(error, InputError):
            say(error)
        elif issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
        else:
            text = "".join(traceback.format_exception(kind, error, trace))
            show_report(f"Scutcher {__version__} on Python {sys.version.split()[0]}\n\n{text}")

    def caught_in_thread(args: threading.ExceptHookArgs) -> None:
        if args.exc_value is not None and args.exc_type is not SystemExit:
            caught(args.exc_type, args.exc_value, args.exc_traceback)

    sys.excepthook = caught
    threading.excepthook = caught_in_thread
