"""Images in passes beside one streaming pass over the file and one matrix product."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np

from bench.timing import median_ratio, seconds_of
from scutcher.core.images.image import Image
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.smooth_order import smooth_order
from scutcher.core.images.streamed_model import fit_image
from scutcher.core.numeric.threads import one_thread
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.demo.large_belt_scan import write_large_belt_scan
from scutcher.files.images.opening import open_image

ROWS, COLUMNS, BANDS = 600, 600, 300
LIMITED = """
import resource, sys
resource.setrlimit(resource.RLIMIT_AS, (2 << 30, 2 << 30))
from pathlib import Path
from bench.images import fit_of
from scutcher.files.images.opening import open_image
fit_of(open_image(Path(sys.argv[1])))
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024)
"""


def fit_of(image: Image, scheme: str = "tiles", *treat: dict[str, object]) -> None:
    """Five components with validation, and every map."""
    fit_image(
        image,
        recipe_from_plain(
            {
                "treat": list(treat),
                "scale": {"centre": "mean", "method": "none"},
                "model": {"components": 5},
                "validate": {"scheme": scheme},
            }
        ),
    )


def report() -> list[str]:
    """The lines of this bench."""
    with tempfile.TemporaryDirectory() as folder:
        path = write_large_belt_scan(Path(folder), ROWS, COLUMNS, BANDS)[0]
        return _lines(path)


def _lines(path: Path) -> list[str]:
    image = open_image(path)
    block = np.asarray(image.matrix.rows(0, 36_000), dtype=np.float64)
    parts = image.pixels // len(block)

    def product() -> None:
        with one_thread():
            for _ in range(parts):
                block.T @ block

    def stream() -> None:
        for tile in image.tiles(16_000_000):
            image.fetch(tile)

    works = {
        "model and maps, no validation": lambda: fit_of(image, "none"),
        "model and maps, held out by tiles": lambda: fit_of(image),
        "the same after SNV": lambda: fit_of(image, "tiles", {"method": "snv"}),
        "order by smoothness": lambda: smooth_order(PixelTreatment(image)),
    }
    passed = seconds_of(stream)
    lines = [f"{ROWS} × {COLUMNS} × {BANDS} float32, one pass over the file (cached): {passed:.2f} s"]
    for name, work in works.items():
        own, one = median_ratio(work, product, 3)
        lines.append(
            f"{name}: {own:.1f} s = {own / one:.1f} products, {own / (one + passed):.1f} with the pass"
        )
    peak = subprocess.run(
        [sys.executable, "-c", LIMITED, str(path)], capture_output=True, text=True, check=True
    )
    lines.append(f"with 2 GiB for the program: done, {peak.stdout.strip()} MB at most")
    return lines
