"""A test case with a folder of its own."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path


class InFolder(unittest.TestCase):
    """`folder` is empty at first, and gone afterwards."""

    def setUp(self) -> None:
        self.prepare()
        super().setUp()

    def prepare(self) -> None:
        """Before anything else of the case is set up: cleaned up after all of it."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
