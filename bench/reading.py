"""A 10,000 × 1,000 CSV (about 100 MB): time beside the library alone, memory beside the array."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np

N, P = 10_000, 1_000
OURS = "from scutcher.files.formats import read_tables; table = read_tables([path], watch=lambda share: True)"
LIBRARY = "import pandas; frame = pandas.read_csv(path)"
"""By name the library reads on two threads, which can neither be watched nor stopped."""
STREAM = "import pandas; frame = pandas.read_csv(path.open('rb'))"
PROGRAM = """
import resource, sys, time
from pathlib import Path
import numpy, pandas, scutcher.files.formats
path = Path(sys.argv[1])
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
start = time.perf_counter()
{work}
print(time.perf_counter() - start, (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024)
"""


def measured(work: str, path: Path) -> tuple[float, float]:
    """Seconds and bytes at the peak, in a process of its own."""
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM.format(work=work), str(path)],
        capture_output=True,
        text=True,
        check=True,
    )
    seconds, peak = map(float, done.stdout.split())
    return seconds, peak


def report() -> list[str]:
    """The lines of this bench."""
    rng = np.random.default_rng(0)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.csv"
        with path.open("w") as stream:
            stream.write("id," + ",".join(str(1000 + 2 * place) for place in range(P)) + "\n")
            for row in range(N):
                stream.write(f"s{row}," + ",".join(f"{value:.7f}" for value in rng.uniform(0, 2, P)) + "\n")
        size = path.stat().st_size
        works = (OURS, LIBRARY, STREAM)
        turns = [[measured(work, path) for work in works] for _ in range(7)]
        (ours, our_peak), (library, library_peak), (stream, _) = (
            min(side) for side in zip(*turns, strict=True)
        )
    array = N * P * 8
    return [
        f"CSV of {size / 1e6:.0f} MB: {ours:.2f} s = {ours / stream:.2f} × the library alone on a stream "
        f"({stream:.2f} s), {ours / library:.2f} × on a name, with two threads ({library:.2f} s); "
        f"peak {our_peak / array:.1f} × the array (library {library_peak / array:.1f} ×)"
    ]
