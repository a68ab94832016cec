"""Run by `./run wheel` with the Python of a fresh environment: what was installed is whole and works.

It stands alone and asserts: nothing of the checkout may be needed.
"""

import json
import subprocess
import sys
import time
from pathlib import Path


def call(*arguments: str) -> str:
    done = subprocess.run(
        [sys.executable, "-m", "scutcher", *arguments], capture_output=True, text=True, timeout=300
    )
    assert done.returncode == 0, (arguments, done.stderr)
    return done.stdout


def main() -> None:
    import scutcher

    assert "site-packages" in scutcher.__file__, scutcher.__file__
    assert call("--version").strip() == f"scutcher {scutcher.__version__}"
    call("demo-data", "data")
    call("fit", "data/intake-nir.csv", "--out", "fit", "--study", "kept.scutch")
    summary = json.loads(Path("fit/summary.json").read_text())
    assert summary["samples"] >= 140, summary["samples"]
    call("apply", "fit/model.json", "data/intake-nir.csv", "--out", "again")
    call("report", "kept.scutch", "--out", "report.html")
    assert "<svg" in Path("report.html").read_text()
    look_at_a_window()


def look_at_a_window() -> None:
    from PySide6.QtWidgets import QApplication

    from scutcher.desk.shell.beginning import demo_study
    from scutcher.desk.shell.ending import dispose
    from scutcher.desk.shell.start import application
    from scutcher.desk.shell.window import Window

    application()
    window = Window(demo_study("intake-nir"))
    window.show()
    for page in ("Samples", "Treat", "Rank", "Inspect", "Groups", "Report"):
        window.show_page(page)
        end = time.monotonic() + 60.0
        while window.desk.live.busy and time.monotonic() < end:
            QApplication.processEvents()
    window.papers.show_guide()  # its texts are in the wheel
    for _ in range(20):
        QApplication.processEvents()
    assert window.desk.moment.found is not None
    dispose(window)


if __name__ == "__main__":
    main()
