"""Numbers as they stand on screen and on paper."""

from __future__ import annotations


def with_minus(text: str) -> str:
    """A number's hyphen as the minus sign it is."""
    return text.replace("-", "−")
