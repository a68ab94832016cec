"""`python -m scutcher` is the command line."""

import sys

from scutcher.cli import main

if __name__ == "__main__":
    sys.exit(main())
