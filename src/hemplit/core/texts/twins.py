"""Near-twins: two texts so alike that one is probably a slip for the other."""

from __future__ import annotations

import re
from collections import defaultdict
from typing import TYPE_CHECKING

from rapidfuzz import process
from rapidfuzz.distance import OSA

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

#: Two texts are near twins if one becomes the other by this many slips per character, at least one: a letter too many,
#: too few, another, or two that changed places.
SLIPS_PER_CHARACTER = 1 / 6
#: Of so many signs all but one are hardly the same by chance.
LONG = 6
#: Signs between words, which people leave out or put in.
BETWEEN = "–'’.,/&()"
ROMAN = re.compile(r"\b(?=[ivxlc]+\b)c{0,3}(?:x[cl]|l?x{0,3})(?:i[xv]|v?i{0,3})\b", re.IGNORECASE)


def are_twins(one: str, other: str) -> bool:
    """Whether two texts are so alike that one is probably a slip for the other.

    >>> are_twins("Marlow Botas", "Marlow Boats"), are_twins("kittiwake ", "Kittiwake"), are_twins("Unit 84", "Unit 48")
    (True, True, False)
    """
    if not one or not other:
        return False
    if _folded(one) == _folded(other):
        return True
    shorter = min(len(one), len(other))
    slips = _slips(shorter)
    if shorter < 4 or differs_in_a_sign(one, other):
        return False
    return bool(OSA.distance(one.casefold(), other.casefold(), score_cutoff=slips) <= slips)


class TwinsOf:
    """Texts among which the twins of others are looked for, without a look at each: those of the same digits, as in a
    number every digit counts, that are so few letters away.

    >>> TwinsOf(["Marlow Boats", "Unit 48", "Kittiwake"]).first("Marlow Botas")
    'Marlow Boats'
    """

    def __init__(self, texts: Iterable[str]) -> None:
        self._texts: dict[str, list[str]] = defaultdict(list)
        for text in texts:
            self._texts[_digits(text)].append(text)
        self._folded = {digits: [*map(_folded, some)] for digits, some in self._texts.items()}

    def first(self, text: str) -> str | None:
        """The first of the texts that is a twin of this one; None if there is none."""
        digits = _digits(text)
        if digits not in self._folded:
            return None
        near = process.extract_iter(
            _folded(text), self._folded[digits], scorer=OSA.distance, score_cutoff=_slips(len(text))
        )
        able = (self._texts[digits][place] for _, _, place in near)
        return next((other for other in able if are_twins(text, other)), None)


def _folded(text: str) -> str:
    return " ".join(text.casefold().split())


def _digits(text: str) -> str:
    return "".join(filter(str.isdigit, text))


def _slips(length: int) -> int:
    """How many slips a text of so many characters may hold."""
    return max(1, int(length * SLIPS_PER_CHARACTER))


def is_a_sign_off(one: str, other: str) -> bool:
    """Whether two texts that are too long for it to be chance differ in one sign only, or in two that changed places.

    >>> is_a_sign_off("0171 220118", "0171 220181"), is_a_sign_off("Unit 84", "Unit 89"), is_a_sign_off("0171", "0172")
    (True, True, False)
    """
    return min(len(one), len(other)) >= LONG and bool(OSA.distance(one, other, score_cutoff=1) == 1)


def differs_in_a_sign(one: str, other: str) -> bool:
    """Whether two texts differ in a digit, a sign, a Roman number or a letter that stands alone.

    PD+ is not PD-, Teal II is not Teal III, Loft A is not Loft B, and A. Lund is not B. Lund.

    >>> differs_in_a_sign("N01", "N02"), differs_in_a_sign("A. Lund", "B. Lund"), differs_in_a_sign("Teal", "Tael")
    (True, True, False)
    """
    return any(told(one) != told(other) for told in (_signs, _numbers)) or _differ_in_letters_alone(one, other)


def sharing_a_half(texts: Sequence[str]) -> list[list[int]]:
    """The places of texts with the same digits and a half in common, two at least together.

    Texts within two letters of each other are together somewhere, unless they are very short; in a number every digit
    counts.

    >>> sharing_a_half(["Kittiwake", "Heron 2", "Kittiwaek", "Heron 3"])
    [[0, 2], [0, 2]]
    """
    of_digits: dict[str, list[int]] = defaultdict(list)
    for place, text in enumerate(texts):
        of_digits[_digits(text)].append(place)
    together = []
    for places in of_digits.values():
        if len(places) > 1:
            index: dict[str, list[int]] = defaultdict(list)
            for place in places:
                for part in _halves(texts[place]):
                    index[part].append(place)
            together += [alike for alike in index.values() if len(alike) > 1]
    return together


def _halves(text: str) -> set[str]:
    """The halves of a text, cut in either of two places."""
    half = len(text) // 2
    return {f"<{text[:half]}", f"<{text[: half + 1]}", f"{text[half:]}>", f"{text[half + 1 :]}>"}


def _signs(text: str) -> list[str]:
    """The signs that are part of what a code says: PD+ is not PD-. What parts words may be typed or not."""
    return [letter for letter in text if not letter.isalnum() and not letter.isspace() and letter not in BETWEEN]


def _differ_in_letters_alone(one: str, other: str) -> bool:
    """Whether the same words stand beside other letters; a space typed too early makes a letter stand alone in one."""
    said, wanted = (text.casefold().replace(".", " ").split() for text in (one, other))
    pairs = [pair for pair in zip(said, wanted, strict=False) if pair[0] != pair[1]]
    return len(said) == len(wanted) and bool(pairs) and all(len(word) == 1 for pair in pairs for word in pair)


def _numbers(text: str) -> tuple[list[str], list[str]]:
    return [letter for letter in text if letter.isdigit()], ROMAN.findall(text.casefold())
