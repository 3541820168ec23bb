"""What a single text looks like: a number, a date, a word for a total. For deciding about rows, not about values."""

from __future__ import annotations

import math
import re
from itertools import islice
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

#: Thousands with marks between.
GROUPED = re.compile(r"[1-9]\d{0,2}(?:[.,]\d{3})+")
DIGITS_TOGETHER = 3
NUMBER = re.compile(r"[-+(]?\s*[€$£]?\s*[-+]?\d[\d.,'\u00a0\u202f ]*\s*[%€$£)]?-?")
DATE = re.compile(
    r"\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}([T ]\d{1,2}:\d{2}(:\d{2})?)?|\d{1,2}:\d{2}(:\d{2})?"
    r"|\d{1,2}[ -][A-Za-z]{3,9}[ -]\d{2,4}"
)
#: The words with which people begin a line of totals, in the languages of the headers.
TOTAL = re.compile(
    r"(grand |sub-?)?totals?( général| general)?|sum|sums|(gesamt|zwischen)?summe|gesamt|somme|suma|overall"
    r"|(grand |sub-?)?total[ :].*|.*[ ](sub)?total:?|sum of .*|average|avg|mean|durchschnitt|moyenne|media",
    re.IGNORECASE,
)
#: The days of the week in the languages of the headers.
WEEKDAYS = frozenset(
    "mon tue tues wed thu thur thurs fri sat sun monday tuesday wednesday thursday friday saturday sunday"
    " montag dienstag mittwoch donnerstag freitag samstag sonnabend sonntag lundi mardi mercredi jeudi vendredi samedi"
    " dimanche lunes martes miercoles miércoles jueves viernes sabado sábado domingo".split()
)
#: The months in the languages of the headers.
MONTHS = {
    name: month
    for month, names in enumerate(
        (
            "jan january januar janvier janv enero ene",
            "feb february februar fevrier fevr février févr febrero",
            "mar march marz märz mrz mars marzo",
            "apr april avril avr abril abr",
            "may mai mayo",
            "jun june juni juin junio",
            "jul july juli juillet juil julio",
            "aug august aout août agosto ago",
            "sep sept september septembre septiembre",
            "oct october okt oktober octobre octubre",
            "nov november novembre noviembre",
            "dec december dez dezember decembre décembre dec déc diciembre dic",
        ),
        1,
    )
    for name in names.split()
}
#: Words for a blank: in no column a value, unless everything there is as short: signs, and abbreviations with a stroke.
SIGNS = frozenset(
    "- -- --- – — . .. … n/a #n/a n.a. n.v. k.a. #n/v (blank) (null) (none) <null> <na>"
    " #div/0! #ref! #value! #name? #num! #null! #getting_data #wert! #bezug! #zahl! #spill! #calc!".split()
)
#: A blank only among numbers, dates and codes.
WORDS = frozenset(
    "na n.a nan nil none null nothing unknown unk tbd tba tbc ? ?? ??? missing empty x xx pending"
    " keine keiner kein unbekannt fehlt aucun aucune inconnu ninguno ninguna nd s/d desconocido not_known".split()
) | {"not known", "not available", "not applicable", "no data"}
#: What a laboratory writes where there was too little to measure, which is more than a blank: it is proposed.
TOO_LITTLE = frozenset({"n.d.", "b.d.l.", "bdl", "trace", "traces", "n.n.", "u.d.l."})


def all_but(misses: int, texts: Iterable[str], holds: Callable[[str], object]) -> bool:
    """Whether it holds for all of the texts but so many; no more are looked at than tell.

    >>> all_but(1, ["12", "B12", "13"], is_number), all_but(0, ["12", "B12", "13"], is_number)
    (True, False)
    """
    return next(islice((text for text in texts if not holds(text)), misses, None), None) is None


def is_number(text: str) -> bool:
    """Whether a person would take the text for a number.

    >>> [is_number(text) for text in ("12", "1,250.00", "-3 %", "(40)", "B12", "")]
    [True, True, True, True, False, False]
    """
    return NUMBER.fullmatch(text.strip()) is not None


def are_grouped(numbers: Sequence[str]) -> bool:
    """Whether marks stand between the thousands of numbers: behind each are three digits, and below a thousand none.

    >>> are_grouped(["1.200", "35"]), are_grouped(["1.200", "2.5"]), are_grouped(["1.200", "1500"])
    (True, False, False)
    """
    marked = [number for number in numbers if not number.isdecimal()]
    plain = len(numbers) - len(marked)
    below = all(len(number) <= DIGITS_TOGETHER for number in numbers if number.isdecimal())
    return bool(marked) and plain > 0 and below and all(map(GROUPED.fullmatch, marked))


def is_date(text: str) -> bool:
    """Whether a person would take the text for a date or a time.

    >>> [is_date(text) for text in ("2026-04-01", "1/4/26", "3 May 2026", "7:30", "Berth 4")]
    [True, True, True, True, False]
    """
    return DATE.fullmatch(text.strip()) is not None


def is_word(text: str) -> bool:
    """Whether the text is neither blank nor a number nor a date: what headers are made of."""
    return bool(text.strip()) and not is_number(text) and not is_date(text)


def is_total(text: str) -> bool:
    """Whether the text is a word for a line of totals.

    >>> [is_total(text) for text in ("Total", "Grand total:", "April total", "Totally new", "Summe")]
    [True, True, True, False, True]
    """
    return TOTAL.fullmatch(text.strip().rstrip(":").strip()) is not None


def number(text: str) -> float:
    """The number that a text shows, the last of point and comma being the decimal mark; not a number if it shows none.

    >>> [number(text) for text in ("1,250.50", "1.250,50", "(40)", "12 %")]
    [1250.5, 1250.5, -40.0, 12.0]
    """
    digits = re.sub(r"[^\d.,]", "", text)
    negative = text.strip().startswith(("(", "-")) or text.strip().endswith("-")
    mark = max(digits.rfind("."), digits.rfind(","))
    decimals = digits[mark + 1 :]
    if mark >= 0 and (len(decimals) != 3 or len({one for one in digits if not one.isdigit()}) > 1):
        digits = re.sub(r"[.,]", "", digits[:mark]) + "." + decimals
    else:
        digits = re.sub(r"[.,]", "", digits)
    try:
        value = float(digits)
    except ValueError:
        return math.nan
    return -value if negative else value


def is_blank_word(text: str) -> bool:
    """Whether a text may stand for a blank."""
    return text.strip().lower() in SIGNS | WORDS | TOO_LITTLE
