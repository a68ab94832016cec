"""`python -m scutcher.desk.screenshots [FOLDER]`: the pictures and the guide of the docs."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from scutcher.desk.screenshots.guide import guide_text
from scutcher.desk.screenshots.main_views import write_pictures
from scutcher.desk.screenshots.page_pictures import PAGES
from scutcher.desk.shell.beginning import demo_study
from scutcher.files.safely import make_folder, write_text


def main() -> int:
    """Draw the main views of the demo into the folder named on the command line."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots")
    make_folder(folder)
    for path in write_pictures(demo_study("intake-nir"), folder):
        print(path)
    for write in PAGES:
        print(write(folder))
    write_text(folder.parent / "guide.md", guide_text())
    return 0


if __name__ == "__main__":
    sys.exit(main())
