"""Headers that are made as the values under them are, and so say what the parts of these are: ``Boat / Berth``.

Boat / Berth          Boat (Reg)
Teal / B12            Teal (MQ-114)
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import pyarrow.compute as pc

from hemplit.core.kinds.reader import all_match
from hemplit.core.texts.vocabulary import CONTACT, NAME
from hemplit.core.texts.words import is_identifier, words

if TYPE_CHECKING:
    import pyarrow as pa

#: How two parts stand in one text, with nothing else of that sort in it. A comma or a hyphen without blanks is part of
#: a number, a day, a telephone or a word.
JOINED = {
    "first / second": r"(?P<a>[^/]*[^/\s])\s*/\s*(?P<b>[^/\s][^/]*)",
    "first | second": r"(?P<a>[^|]*[^|\s])\s*\|\s*(?P<b>[^|\s][^|]*)",
    "first - second": r"(?P<a>(?:\S|\s[^\s–—-])+)\s+[–—-]\s+(?P<b>(?:\S|\s[^\s–—-])+)",
    "first (second)": r"(?P<a>[^()]*[^()\s])\s*\((?P<b>[^()]+)\)",
    "first, second": r"(?P<a>[^,]*[^,\s])\s*,\s+(?P<b>[^,\s][^,]*)",
}
#: A part of a header has so many letters: w/c and S/N are words.
FEWEST_LETTERS = 2
WORD = r"\pL{3}"


def headed(header: str) -> dict[str, tuple[str, str]]:
    """The ways in which the values under a header may be made as it is, each with what it calls the two parts.

    What stands in brackets is of what stands before, unless that says no more than that it is a name.

    >>> headed("Boat / Berth"), headed("Boat (Reg)"), headed("Sub-total"), headed("w/c")
    ({'first / second': ('Boat', 'Berth')}, {'first (second)': ('Boat', 'Boat Reg')}, {}, {})
    """
    found = {name: re.fullmatch(pattern, header.strip()) for name, pattern in JOINED.items()}
    return {
        name: _called(name, one["a"].strip(), one["b"].strip())
        for name, one in found.items()
        if one and all(sum(map(str.isalpha, part)) >= FEWEST_LETTERS for part in one.groups())
    }


def _called(name: str, first: str, second: str) -> tuple[str, str]:
    of_first = second == first or (name == "first (second)" and NAME.isdisjoint(words(first)))
    return first, f"{first} {second}" if of_first else second


def made_as(header: str, texts: pa.StringArray) -> str:
    """The way in which all texts are made as their header is; empty if there is none.

    Under a header of codes, or of telephones, the parts may be those of one, unless some text has a word: 2026/114.

    >>> import pyarrow as pa
    >>> made_as("Boat / Berth", pa.array(["Teal / B12", "Smew / B4"])), made_as("Boat / Berth", pa.array(["Teal"]))
    ('first / second', '')
    >>> made_as("Job/Order No", pa.array(["2026/114", "2026/115"])), made_as("Part / Part No", pa.array(["oar / B1"]))
    ('', 'first / second')
    """
    ways = [name for name in headed(header) if all_match(texts, JOINED[name])]
    coded = is_identifier(words(header)) or not CONTACT.isdisjoint(words(header))
    if coded and ways and not pc.any(pc.match_substring_regex(texts, WORD)).as_py():
        return ""
    return next(iter(ways), "")
