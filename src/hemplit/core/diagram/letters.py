"""How wide a text is in the widest of the usual plain fonts, so that in any of them it fits."""

from __future__ import annotations

import unicodedata
from functools import cache

#: Widths in thousandths of the size of the letters, as measured in DejaVu Sans, which is wider than the other usual
#: fonts without serifs.
WIDTHS = {
    **dict.fromkeys("ijl'|", 300),
    **dict.fromkeys(" .,:;I!ft()[]-/\\", 400),
    **dict.fromkeys('rJ"*', 500),
    **dict.fromkeys("ABCDEFGHKLNOPQRSTUVXYZ&wm", 790),
    **dict.fromkeys("MW@%+=<>#~", 990),
}
MIDDLE, WIDE = 640, 1020
BOLD = 1.12


def width_of(text: str, size: float, *, bold: bool = False) -> float:
    """How wide a text may be, in pixels, in letters of a size.

    >>> width_of("ill", 10), width_of("舟", 10) > width_of("b", 10)
    (9.0, True)
    """
    return sum(map(_width, text)) / 1000 * size * (BOLD if bold else 1)


@cache
def _width(letter: str) -> int:
    if unicodedata.combining(letter):
        return 0
    wide = unicodedata.east_asian_width(letter) in "WF" or ord(letter) > 0x1F000
    return WIDE if wide else WIDTHS.get(letter, MIDDLE)


def cut(text: str, most: int) -> str:
    """A text of at most so many letters, cut in the middle.

    >>> cut("code_of_the_harbour_register", 13)
    'code_o…gister'
    """
    half = (most - 1) // 2
    return text if len(text) <= most else f"{text[: most - 1 - half]}…{text[len(text) - half :]}"
