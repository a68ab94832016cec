"""How numbers are written on the screen: with the decimal mark that was chosen, or the desktop's."""

from __future__ import annotations

from PySide6.QtCore import QLocale

from scutcher.core.words import decimal_mark, write_numbers_with
from scutcher.study.storage.settings import settings

NUMBERS = {"desktop": "as the desktop", "point": "0.62", "comma": "0,62"}

MARKS = {"point": ".", "comma": ","}


def take_numerals() -> bool:
    """Of all that is made from now on, and whether that is another one than before.

    Data, recipes, the log, figures and reports keep the point.
    """
    before = decimal_mark()
    write_numbers_with(MARKS.get(settings().numbers) or QLocale.system().decimalPoint())
    return decimal_mark() != before
