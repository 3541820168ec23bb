"""Near-twins: two texts so alike that one is probably a slip for the other."""

from __future__ import annotations

import re

from rapidfuzz.distance import OSA

#: Two texts are near twins if one becomes the other by this many slips per character, at least one: a letter too many,
#: too few, another, or two that changed places.
SLIPS_PER_CHARACTER = 1 / 6
ROMAN = re.compile(r"\b[ivxlc]+\b", re.IGNORECASE)


def are_twins(one: str, other: str) -> bool:
    """Whether two texts are so alike that one is probably a slip for the other.

    >>> are_twins("Marlow Botas", "Marlow Boats"), are_twins("kittiwake ", "Kittiwake"), are_twins("N01", "N02")
    (True, True, False)
    """
    if not one or not other:
        return False
    if " ".join(one.casefold().split()) == " ".join(other.casefold().split()):
        return True
    shorter = min(len(one), len(other))
    slips = max(1, int(shorter * SLIPS_PER_CHARACTER))
    # In a code every character counts: what differs in a digit is another code, and Teal II is not Teal III.
    if shorter < 4 or _numbers(one) != _numbers(other):
        return False
    return bool(OSA.distance(one.casefold(), other.casefold(), score_cutoff=slips) <= slips)


def halves(text: str) -> set[str]:
    """The halves of a text, cut in either of two places, with its digits: in a number every digit counts.

    Texts within two letters of each other have one of them in common, unless they are very short.

    >>> sorted(halves("Teal 2"))
    ['2| 2>', '2|<Tea', '2|<Teal', '2|l 2>']
    """
    half = len(text) // 2
    digits = "".join(letter for letter in text if letter.isdigit())
    parts = (f"<{text[:half]}", f"<{text[: half + 1]}", f"{text[half:]}>", f"{text[half + 1 :]}>")
    return {f"{digits}|{part}" for part in parts}


def _numbers(text: str) -> tuple[list[str], list[str]]:
    return sorted(letter for letter in text if letter.isdigit()), ROMAN.findall(text.casefold())
