"""Several values in one cell: what parts them, what is said with each, and how they are written again."""

from __future__ import annotations

import re

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
#: A value and what is said with it: "2 x cleat", "cleat x2", "cleat (2)" and "Ann (skipper)", "cleat: 2", "2 cleats".
WITH = tuple(
    map(
        re.compile,
        (
            r"(?P<said>\d+) ?[x×] ?(?P<value>.+)",
            r"(?P<value>.+?)\s[x×] ?(?P<said>\d+)",
            r"(?P<value>[^()]+?) ?\((?P<said>[^()]+)\)",
            r"(?P<value>[^:=]+?) ?[:=] ?(?P<said>[^:=]+)",
            r"(?P<said>\d+) (?P<value>[^\W\d][^\d()]*)",
        ),
    )
)
#: Those with a sign for a number of things.
SIGNED = WITH[:3]
#: The one in which a name is said first; a digit before the sign may be an hour.
NAMED = re.compile(r"(?P<value>[^\W\d_][^\d:=]*?) ?[:=] ?(?P<said>[^:=]+)")
ANY_WITH = r"[(:=]|\d ?[x×]? ?[[:alpha:]]|[x×] ?\d"
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


def with_said(part: str) -> tuple[str, str] | None:
    """A value and what is said with it; None if nothing is.

    >>> with_said("2x rope"), with_said("brass cleat (4)"), with_said("Ann (skipper)"), with_said("rope 8 mm")
    (('rope', '2'), ('brass cleat', '4'), ('Ann', 'skipper'), None)
    """
    found = next(filter(None, (form.fullmatch(part) for form in WITH)), None)
    return (found["value"].strip(), found["said"].strip()) if found else None


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
