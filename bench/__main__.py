"""`python -m bench [WORD]`: runs the benches whose name has the word, and prints their lines."""

from __future__ import annotations

import importlib
import sys

BENCHES = (
    "startup",
    "frames",
    "fitting",
    "treating",
    "reading",
    "drawing",
    "fuzzing",
    "coverage",
    "outliers",
    "inspecting",
    "treat_page",
    "groups",
    "gaps",
    "choices",
    "images",
    "maps",
    "series",
    "blocks",
    "monkey",
    "day",
    "guided",
)


def main() -> int:
    """Run and print."""
    word, more = (sys.argv[1], sys.argv[2:]) if len(sys.argv) > 1 else ("", [])
    for name in BENCHES:
        if word in name:
            print(name)
            for line in importlib.import_module(f"bench.{name}").report(*more):
                print(f"  {line}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
