"""Coverage-guided fuzzing of what is our own in reading: layouts of text, JCAMP, recipes, models.

`python -m bench guided [SECONDS]`; needs atheris (`pip install atheris`, Linux), which is no dependency.
Begins with the small files of `fuzz_seeds`; each target runs in a process of its own, and what it finds is
kept as a file.
"""

from __future__ import annotations

import importlib.util
import json
import subprocess
import sys
import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

SECONDS = 60
TARGETS = {"csv": ".csv", "jcamp": ".jdx", "recipe": ".toml", "model": ".json"}
LONGEST = 40_000
"""Bytes of an input."""


def report(*arguments: str) -> list[str]:
    """The lines of this bench; SECONDS for each target as an argument."""
    if importlib.util.find_spec("atheris") is None:
        return ["atheris is not installed: nothing was done"]
    seconds = int(arguments[0]) if arguments else SECONDS
    return [_guided(name, seconds) for name in TARGETS]


def _guided(name: str, seconds: int) -> str:
    from bench.fuzz_seeds import all_seeds

    with tempfile.TemporaryDirectory() as folder:
        corpus = Path(folder) / "corpus"
        corpus.mkdir()
        suffix = TARGETS[name]
        seeds = [
            seed.content for seed in all_seeds() if seed.suffix == suffix and len(seed.content) < LONGEST
        ]
        for place, content in enumerate(seeds):
            (corpus / str(place)).write_bytes(content)
        limits = [f"-max_total_time={seconds}", f"-max_len={LONGEST}", "-timeout=10", "-rss_limit_mb=2000"]
        keep = f"-artifact_prefix={tempfile.gettempdir()}/guided-{name}-"
        command = [sys.executable, "-m", "bench.guided", name, *limits, keep, str(corpus)]
        done = subprocess.run(command, capture_output=True, text=True)
        last = [line for line in done.stderr.splitlines() if line.startswith(("Done", "#", "=="))][-1:]
        where = [line for line in done.stderr.splitlines() if "Test unit written" in line]
        words = (
            "nothing found" if done.returncode == 0 else f"FOUND: {' '.join(where)}\n{done.stderr[-3000:]}"
        )
    return f"{name}: {len(seeds)} seeds, {' '.join(last)}: {words}"


def _target(name: str, folder: Path) -> Callable[[bytes], None]:
    """What reads one input: anything but a sentence is a finding."""
    import atheris

    with atheris.instrument_imports(include=["scutcher.files", "scutcher.core.recipes"]):
        from scutcher.core.errors import InputError
        from scutcher.files.class_models_json import read_any_model
        from scutcher.files.formats import read_tables
        from scutcher.files.recipe_toml import read_recipe
    from bench.mutating import resealed

    path = folder / f"f{TARGETS[name]}"

    def take(data: bytes) -> None:
        if name == "model":
            with suppress(ValueError, RecursionError):
                data = json.dumps(resealed(json.loads(data))).encode()
        path.write_bytes(data)
        try:
            if name == "recipe":
                read_recipe(path)
            elif name == "model":
                read_any_model(path)
            else:
                read_tables([path])
        except InputError:
            return

    return take


def main() -> None:
    """In a process of its own: one target."""
    import atheris

    with tempfile.TemporaryDirectory() as folder:
        take = _target(sys.argv[1], Path(folder))
        atheris.Setup([sys.argv[0], *sys.argv[2:]], take)
        atheris.Fuzz()


if __name__ == "__main__":
    main()
