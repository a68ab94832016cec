"""The tests mirror `src/`; `python -m tests` runs them all."""

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
