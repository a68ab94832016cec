"""The command line: a public contract; names here are never changed, only added."""

from __future__ import annotations

import sys
from collections.abc import Sequence

from scutcher import __version__

UNUSABLE = 1


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command.

    Returns
    -------
    int
        0 done; 1 the data or recipe cannot be used (one line on stderr); 2 wrong call.
    """
    given = list(sys.argv[1:] if arguments is None else arguments) or ["open"]
    if given == ["--version"]:  # nobody waits for all commands to hear that
        print(f"scutcher {__version__}")
        return 0
    from scutcher.cli.commands import parser
    from scutcher.core.errors import InputError
    from scutcher.core.late_modules import without_documentation

    without_documentation()
    try:
        options = parser(given[0]).parse_args(given)
    except SystemExit as wrong:  # argparse has printed usage, help or the version
        return int(wrong.code or 0)
    try:
        return int(options.run(options))
    except InputError as error:
        print(f"scutcher: {error}".replace("\n", " "), file=sys.stderr)
        return UNUSABLE
    except BrokenPipeError:
        return UNUSABLE
    except MemoryError:
        print("scutcher: The memory is not enough for these data. Use fewer variables.", file=sys.stderr)
        return UNUSABLE
