"""Names a colleague would have chosen, from the headers: tables in the plural, columns without the table's name."""

from __future__ import annotations

import re
from itertools import takewhile
from typing import TYPE_CHECKING

from hemplit.core.texts import nouns
from hemplit.core.texts.vocabulary import FREE_TEXT, IDENTIFIER, NAME
from hemplit.core.texts.words import in_full, is_measure, snake, stem_of, unused, words
from hemplit.dataclasses import dataclass, field

if TYPE_CHECKING:
    from collections.abc import Container, Sequence

    from hemplit.core.model.design import ColumnPlan


#: Words that are one and many.
UNCOUNTABLE = frozenset("staff personnel equipment stock gear fleet info".split())
#: Words after which something is left out, so that they have no plural: "Paid By".
OPEN = frozenset("who as by in is at from to for on of off via with".split())
#: What a question for several things begins with, and what follows on them.
ASKING, ASKED = frozenset("which what".split()), frozenset("do does did are is have has can could would should".split())
#: The number of a question, and how many words a header has at least that asks it in full.
QUESTION, WORDS_OF_QUESTION = re.compile(r"q\d+[a-z]?"), 4


@dataclass
class Named:
    """A table that is being put together."""

    name: str
    stem: tuple[str, ...]
    key: tuple[str, ...] = ()
    columns: list[ColumnPlan] = field(default_factory=list)

    @property
    def taken(self) -> set[str]:
        """The names that its columns have so far."""
        return {column.name for column in self.columns}


def stem(headers: Sequence[str]) -> tuple[str, ...]:
    """The words for the thing that the headers identify: what they begin with in common, without words like "No".

    >>> stem(["Boat Reg", "Boat"]), stem(["Job No"]), stem(["Owner"]), stem(["Berth Code", "Mooring"])
    (('boat',), ('job',), ('owner',), ('berth',))
    """
    split = [words(header) for header in headers]
    common = split[0]
    for other in split[1:]:
        length = next(
            (at for at, pair in enumerate(zip(common, other, strict=False)) if pair[0] != pair[1]),
            min(len(common), len(other)),
        )
        common = common[:length] or common
    return stem_of(" ".join(common)) or common


def singular(parts: Sequence[str]) -> tuple[str, ...]:
    """The last word in the singular, before a number.

    >>> singular(("hull", "classes")), singular(("races", "2026"))
    (('hull', 'class'), ('race', '2026'))
    """
    at = _noun(parts)
    return (*parts[:at], nouns.singular(parts[at]), *parts[at + 1 :]) if parts else ()


def listed(parts: Sequence[str]) -> tuple[str, ...]:
    """What a list is one of: what was done with several, or may be, is not said of one; nor is a whole question.

    >>> listed(("parts", "used")), listed(("days", "available")), listed(("hull", "class"))
    (('parts',), ('days',), ('hull', 'class'))
    >>> listed(("q3", "which", "docks", "do", "you", "use")), listed(("which", "docks", "do", "you", "use"))
    (('q3', 'answers'), ('docks',))
    """
    if parts and parts[0] in ASKING and not ASKED.isdisjoint(parts):
        return tuple(takewhile(lambda word: word not in ASKED, parts[1:])) or tuple(parts)
    if len(parts) >= WORDS_OF_QUESTION and QUESTION.fullmatch(parts[0]):
        return (parts[0], "answers")
    said = len(parts) > 1 and (nouns.is_participle(parts[-1]) or parts[-1] == "available")
    done = said and nouns.singular(parts[-2]) != parts[-2]
    return tuple(parts[:-1] if done else parts)


def one_of_list(header: str) -> str:
    """What one entry is called of several under a header; one of measured hours is a number of hours, too.

    >>> [one_of_list(header) for header in ("Marks", "Parts Used", "Unit Prices", "Hours", "Remarks")]
    ['mark', 'part', 'unit price', 'Hours', 'Remarks']
    """
    parts = listed(words(header))
    one = singular(parts)
    return header if one == parts or is_measure(parts) or not FREE_TEXT.isdisjoint(one) else " ".join(one)


def plural(parts: Sequence[str]) -> tuple[str, ...]:
    """The last word in the plural, before a number; what was done by somebody has none.

    >>> plural(("hull", "class")), plural(("jobs",)), plural(("read", "by")), plural(("man", "on", "watch"))
    (('hull', 'classes'), ('jobs',), ('read', 'by'), ('men', 'on', 'watch'))
    """
    one = singular(parts)
    at = _noun(one)
    if not one or "by" in one or one[at] in UNCOUNTABLE | OPEN or one[at][-1].isdigit() or nouns.is_participle(one[at]):
        return one
    return (*one[:at], nouns.plural(one[at]), *one[at + 1 :])


def _noun(parts: Sequence[str]) -> int:
    """The place of the last word that is no number, before what says of which one."""
    end = next((at for at in range(1, len(parts)) if parts[at] in OPEN), len(parts))
    return next((at for at in range(end - 1, -1, -1) if not parts[at].isdigit()), -1)


def without(parts: Sequence[str], table: Sequence[str]) -> tuple[str, ...]:
    """The words of a header inside the table of that stem; the stem alone is the thing's name.

    >>> without(("boat", "length"), ("boat",)), without(("boat",), ("boat",)), without(("berth",), ("boat",))
    (('length',), ('name',), ('berth',))
    >>> without(("survey", "by"), ("survey",)), without(("cust", "town"), ("customer",))
    (('survey', 'by'), ('town',))
    """
    rest = tuple(parts[len(table) :])
    if tuple(table) not in (tuple(parts[: len(table)]), in_full(parts[: len(table)])):
        return tuple(parts)
    return ("name",) if not rest else rest if rest[0] not in ("by", "on") else tuple(parts)


def thing_words(header: str) -> frozenset[str]:
    """The words for a thing in a header or the name of a sheet, in the singular."""
    return frozenset(singular((word,))[0] for word in words(header) if word not in IDENTIFIER | NAME and len(word) > 1)


def table_name(parts: Sequence[str], sheet: str, taken: Container[str]) -> str:
    """The name of a table of a sheet; what another sheet has as well is called after this one, too.

    >>> table_name(("boats",), "haul_outs", {"jobs"}), table_name(("boats",), "haul_outs", {"boats"})
    ('boats', 'haul_out_boats')
    """
    plain = snake(parts)
    # Such a word alone is none that a query can be written with.
    alone = len(parts) == 1 and parts[0] in OPEN
    longer = snake((*singular(words(sheet)), *parts))
    return unused(longer if (plain in taken or alone) and parts else plain, taken, "rows")


def column_name(
    header: str, table: Sequence[str], taken: Container[str], fallback: str, *, is_name: bool = True
) -> str:
    """The name of a column inside the table of that stem; numbers and dates are nobody's name, nor is what has one.

    >>> column_name("Job", ("job",), (), "column_a"), column_name("Job", ("job",), (), "column_a", is_name=False)
    ('name', 'job')
    >>> column_name("Job", ("job",), ("name",), "column_a")
    'job'
    """
    said = without(words(header), table)
    own = said == ("name",) != words(header) and (not is_name or "name" in taken)
    return unused(snake(words(header) if own else said), taken, fallback)
