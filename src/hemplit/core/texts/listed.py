"""Several values in one cell: what parts them, what is said with each, and how they are written again."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

COMMA = r"\s*,\s*(?:(?:and|und|et|y)\s+)?|\s+(?:and|&|und|et)\s+"
#: Where commas part the values of a list, semicolons in some cells do so, too.
MIXED = "comma or semicolon"
#: The separators in words, with what parts the values; the clearer ones come first.
SEPARATORS = {
    "line break": r"\s*\n\s*",
    "semicolon": r"\s*;\s*",
    "bar": r"\s*\|\s*",
    "slash": r"\s*/\s*",
    "comma": COMMA,
    "and": r"\s+(?:and|und|et|y)\s+|\s*&\s*|\s*\+\s*",
    MIXED: rf"\s*;\s*|{COMMA}",
}
#: What stands between values and seldom for anything else: that some of these stand alone as well is enough, if they
#: are names and no remarks, which have more words.
FOR_NOTHING_ELSE = ("line break", "semicolon", "bar")
#: Something of which each separator has at least one.
ANY = r"[\n;|/,&+]|\s(?:and|und|et|y)\s"
SEVERAL_SIGNS = re.compile(ANY)
#: What one costs, with the sign of a currency or a decimal point; a code, as "B12" and "07"; a day; a time, or how long
#: something took.
PRICE = r"[€$£] ?\d+(?:[.,]\d{1,2})?|\d+(?:[.,]\d{1,2})? ?[€$£]|\d+[.,]\d\d"
CODE = r"(?=[A-Z0-9./-]*\d)[A-Z0-9][A-Z0-9./-]{0,11}"
DATE = r"(?:19|20)\d\d-\d\d?-\d\d?|\d{1,2}[./]\d{1,2}[./](?:\d\d){1,2}"
TIME = r"\d{1,3}:\d\d(?::\d\d)?"
#: A value and two things that are said with it, of which the first counts: "2 x cleat @ 4.50", "cleat x2 (£4.50)",
#: "cleat (2 x 4.50)", "cleat:2:4.50".
WITH_TWO = tuple(
    map(
        re.compile,
        (
            rf"(?P<first>\d+) ?[x×] ?(?P<value>[^\W\d][^@€$£]*?) ?(?:@|at |[-–:(,]) ?(?P<second>{PRICE})(?: each)?\)?",
            rf"(?P<first>\d+) (?P<value>[^\W\d][^@€$£]*?) ?(?:@|at ) ?(?P<second>{PRICE})(?: each)?",
            rf"(?P<value>[^\W\d][^@€$£]*?) ?[x×] ?(?P<first>\d+) ?(?:@|at |[-–:(,]) ?(?P<second>{PRICE})(?: each)?\)?",
            rf"(?P<value>[^\W\d][^@€$£]*?) ?\((?P<first>\d+) ?(?:[x×@,]|at ) ?(?P<second>{PRICE})\)",
            rf"(?P<value>[^\W\d][^:]*?) ?: ?(?P<first>\d+) ?: ?(?P<second>{PRICE}|[^\W\d][^:]*)",
        ),
    )
)
#: A value and what is said with it: "2 x cleat", "cleat x2", "cleat (2)" and "Ann (skipper)", "B12 - cleat",
#: "cleat: 2", "2 cleats", "cleat @ 4.50", "Ann 2026-05-01".
WITH = tuple(
    map(
        re.compile,
        (
            r"(?P<first>\d+) ?[x×] ?(?P<value>.+)",
            r"(?P<value>.+?)\s[x×] ?(?P<first>\d+)",
            r"(?P<value>[^()]+?) ?\((?P<first>[^()]+)\)",
            rf"(?P<value>[^\W\d_][^()]*?)[ ,:–-]+(?P<first>{DATE}|{TIME})",
            rf"(?P<first>{DATE}|{TIME})[ ,:–-]+(?P<value>[^\W\d_].*)",
            rf"(?P<first>{CODE}) ?(?:[–—]|- |-(?= )) ?(?P<value>[^\W\d_].*)",
            r"(?P<value>[^:=]+?) ?[:=] ?(?P<first>[^:=]+)",
            r"(?P<first>\d+) (?P<value>[^\W\d][^\d()]*)",
            rf"(?P<value>[^\W\d][^@€$£]*?) ?(?:@|[-–]) ?(?P<first>{PRICE})",
        ),
    )
)
#: Those with a sign for a number of things.
SIGNED = WITH[:3]
#: The one in which a name is said first; a digit before the sign may be an hour.
NAMED = re.compile(r"(?P<value>[^\W\d_][^\d:=]*?) ?[:=] ?(?P<said>[^:=]+)")
ANY_WITH = r"[(:=@–—]|\d ?[x×]? ?[[:alpha:]]|[x×] ?\d| -|- |\d[-./]\d"
PLAIN = {"line break": "\n", "semicolon": "; ", "bar": " | ", "slash": "/", "comma": ", ", "and": " and ", MIXED: ", "}


def parts_of(text: str, by: str) -> list[str]:
    """The values of a cell; a comma too many leaves one that is blank.

    >>> parts_of("Ann; Ben", "semicolon"), parts_of("Ann, , Ben", "comma")
    (['Ann', 'Ben'], ['Ann', '', 'Ben'])
    """
    return [part for part in re.split(SEPARATORS[by], text.strip()) if part or by == "comma"]


def values_of(text: str, by: str) -> list[str]:
    """The values of a cell, without those that are blank."""
    return [*filter(None, parts_of(text, by))]


@lru_cache(maxsize=1 << 16)
def with_said(part: str, many: int = 1) -> tuple[str, ...] | None:
    """A value and so many things, one or two, that are said with it; None if they are not.

    >>> with_said("2x rope"), with_said("brass cleat (4)"), with_said("Ann (skipper)"), with_said("rope 8 mm")
    (('rope', '2'), ('brass cleat', '4'), ('Ann', 'skipper'), None)
    >>> with_said("2 x rope @ 4.50", 2), with_said("B12 - cleat"), with_said("cleat - £3.20")
    (('rope', '2', '4.50'), ('cleat', 'B12'), ('cleat', '£3.20'))
    >>> with_said("cleat:2:4.50", 2), with_said("lift: 10:30", 2)
    (('cleat', '2', '4.50'), None)
    """
    found = next(filter(None, (form.fullmatch(part) for form in (WITH if many == 1 else WITH_TWO))), None)
    return tuple(found[name].strip() for name in ("value", "first", "second")[: many + 1]) if found else None


def says_price(text: str) -> bool:
    """Whether a text says what one costs.

    >>> says_price("£4"), says_price("4.50"), says_price("4")
    (True, True, False)
    """
    return re.fullmatch(PRICE, text) is not None


def are_dates(texts: Iterable[str]) -> bool:
    """Whether each text is a day in digits."""
    return all(re.fullmatch(DATE, text) for text in texts)


def are_times(texts: Iterable[str]) -> bool:
    """Whether each text is a time, or how long something took."""
    return all(re.fullmatch(TIME, text) for text in texts)


def are_codes(texts: Sequence[str]) -> bool:
    """Whether texts are codes, no numbers, or some of them have zeros before them.

    >>> are_codes(["B12", "R8"]), are_codes(["07", "12"]), are_codes(["7", "12"])
    (True, True, False)
    """
    numbers = [text for text in texts if text.isdecimal()]
    coded = all(re.fullmatch(CODE, text) for text in texts)
    return coded and (not numbers or any(text.startswith("0") for text in numbers))


def currency_of(text: str) -> str:
    """The sign of a currency beside a number; empty if there is none.

    >>> currency_of("£4"), currency_of("4.50")
    ('£', '')
    """
    return "".join(re.findall(r"[€$£]", text))


def made_of(value: str, values: set[str], but: str = "") -> list[str]:
    """The values of which one is made, with a separator between them, ``but`` one; none if it is one by itself.

    >>> made_of("Aas; Berg", {"Aas", "Berg"}), made_of("Aas; Berg", {"Aas"})
    (['Aas', 'Berg'], [])
    """
    if SEVERAL_SIGNS.search(value):
        for parts in (parts_of(value, by) for by in SEPARATORS if by != but):
            if len(parts) > 1 and values.issuperset(parts):
                return parts
    return []
