"""Awkward files of our own making, each with the table that a person would expect."""

from pathlib import Path

FOLDER = Path(__file__).parent / "files"
