"""The desktop: window, trail, ladder, pages, and the live painter of the charts."""

import builtins
import gc

gc.disable()  # reading the program leaves nothing to collect; once it runs, `shell/memory.py` does it

import PySide6.QtCore  # noqa: E402, F401  (it puts an import of its own in the place of Python's)

from scutcher.core.late_modules import without_documentation  # noqa: E402

# The import of PySide reads the source of every module that comes after it, to see whether that uses the
# snake_case names that it offers. Nobody does here, and it costs a fifth of the start and 20 MB: Python's own
# import comes back, which PySide keeps under this name.
builtins.__import__ = vars(builtins).get("__orig_import__", builtins.__import__)

without_documentation()
