"""Signatures beside files, made with a user's own key by ssh-keygen, where there is one."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path
from typing import IO

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen

NAMESPACE = "scutcher"
PATIENCE = 60
"""Seconds that a key may take: an agent may ask for a touch."""


@frozen
class Signature:
    """What a signature beside a file says: whether it fits, and the fingerprint of its key."""

    holds: bool
    key: str


def can_sign() -> bool:
    """Whether this machine has the program that signs."""
    return shutil.which("ssh-keygen") is not None


def signature_path(path: Path) -> Path:
    """Where the signature of a file lies: beside it."""
    return path.with_name(f"{path.name}.sig")


def sign(path: Path, key: Path) -> Path:
    """Sign a file with a private key, or the public half of one that an agent holds; the signature's path.

    Raises
    ------
    FileError
        There is no such key or program, or the key asks for words that nobody can give here.
    """
    if not can_sign():
        raise FileError("This machine has no ssh-keygen to sign with.", "Install OpenSSH.")
    for needed in (path, key):
        if not needed.is_file():
            raise FileError(f"There is no file {needed.name}.", "Check the name.")
    made = signature_path(path)
    made.unlink(missing_ok=True)
    done = _run("sign", "-f", str(key), "-n", NAMESPACE, str(path))
    if done.returncode != 0 or not made.exists():
        said = (done.stderr.strip().splitlines() or ["it says nothing"])[-1]
        raise FileError(
            f"{path.name} could not be signed with {key.name}: {said}.",
            "Add a key with a passphrase to the agent first (ssh-add), and name its .pub file.",
        )
    return made


def signature_of(path: Path) -> Signature | None:
    """The signature beside a file; None where there is none, or nothing that could read it."""
    beside = signature_path(path)
    if not beside.is_file() or not can_sign():
        return None
    with path.open("rb") as content:
        done = _run("check-novalidate", "-n", NAMESPACE, "-s", str(beside), stdin=content)
    words = f"{done.stdout} {done.stderr}".split()
    key = next((word for word in words if word.startswith("SHA256:")), "")
    return Signature(done.returncode == 0, key)


def _run(
    what: str, *arguments: str, stdin: IO[bytes] | int = subprocess.DEVNULL
) -> subprocess.CompletedProcess[str]:
    """Without a terminal: a passphrase cannot be asked for here."""
    try:
        return subprocess.run(
            ["ssh-keygen", "-Y", what, *arguments],
            stdin=stdin,
            capture_output=True,
            text=True,
            timeout=PATIENCE,
            start_new_session=True,
            env=_environment(),
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        raise FileError(f"ssh-keygen did not end: {type(error).__name__}.", "Sign by hand.") from error


def _environment() -> dict[str, str]:
    """Nothing that would open a window to ask for a passphrase."""
    import os

    return {**os.environ, "SSH_ASKPASS_REQUIRE": "never", "LC_ALL": "C"}
