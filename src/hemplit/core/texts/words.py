"""What headers say by their words: that a column identifies something, measures it, or tells how to reach somebody."""

from __future__ import annotations

import re
from functools import lru_cache
from itertools import dropwhile, pairwise
from typing import TYPE_CHECKING

from hemplit.core.texts.glued import apart
from hemplit.core.texts.nouns import is_participle, singular
from hemplit.core.texts.vocabulary import (
    ADDRESS,
    DOCUMENT,
    FULL,
    IDENTIFIER,
    INITIAL,
    KEYWORD,
    KIND,
    LABEL,
    LINE,
    MEASURE,
    MONEY,
    NAME,
    NO_IDENTIFIER,
    NUMBERS_OF,
    OF_FAMILY,
    ORDER,
    PART_OF_NAME,
    PRICE,
    SHORT,
    SORT,
    STATE,
    TO_DO,
    UNDER,
    UNIT,
    VALUE,
    WHICH,
)

if TYPE_CHECKING:
    from collections.abc import Collection, Container, Iterable, Sequence

#: The shortest limit among the databases that Hemplit writes to, less some room for a number.
LONGEST_NAME = 56


def in_ascii(text: str) -> str:
    """A text of any script in the letters of ASCII.

    >>> in_ascii("Größe"), in_ascii("Boat")
    ('Grosse', 'Boat')
    """
    if text.isascii():
        return text
    # Its tables of letters are read only where there is one; that takes a hundredth of the time of a draft.
    from anyascii import anyascii

    return anyascii(text)


@lru_cache(maxsize=1 << 16)
def words(header: str) -> tuple[str, ...]:
    """The words of a header in lower-case ASCII; "№", "#", "%" and capitals inside a word, but for kW, count as breaks.

    >>> words("Boat Reg."), words("HullClass"), words("Größe (m)"), words("Job #"), words("Size kW"), words("E-mail")
    (('boat', 'reg'), ('hull', 'class'), ('grosse', 'm'), ('job', 'no'), ('size', 'kw'), ('email',))
    >>> words("Part(s)"), words("bName"), words("PartNo"), words("partno"), words("Marks (tick all)")
    (('parts',), ('b', 'name'), ('part', 'no'), ('part', 'no'), ('marks',))
    """
    asked = TO_DO.sub("", header) or header
    plain = in_ascii(asked.replace("#", " no ").replace("%", " percent ").replace("(s)", "s"))
    plain = re.sub(r"([a-z0-9][a-z0-9])(?=[A-Z])", r"\1 ", plain)
    plain = re.sub(r"\b([a-z])(?=(?:[A-Z][a-z]{2,}|No|I[Dd])\b)", r"\1 ", plain)
    plain = re.sub(r"\b[Pp]ost[ _-]?[Cc]ode\b", "postcode", plain)
    plain = re.sub(r"\b[Ee][ _-]?[Mm]ail\b", "email", plain)
    return apart(re.findall(r"[a-z0-9]+", plain.lower()))


def subject(parts: tuple[str, ...]) -> tuple[str, ...]:
    """The words that say what a column holds: of the type of a phone the type, and of a contact's number a phone.

    >>> subject(words("Phone Type")), subject(words("Phone No")), subject(words("Contact Number"))
    (('type',), ('phone', 'no'), ('phone',))
    """
    if parts[-2:-1] == ("contact",) and parts[-1] in NUMBERS_OF:
        return ("phone",)
    return parts[-1:] if parts and parts[-1] in SORT else parts


def is_part_of_name(parts: Sequence[str]) -> bool:
    """Whether a header with these words is of a part of a name, and not of what came first or last, or of a family.

    >>> [is_part_of_name(words(header)) for header in ("First Name", "Surname", "Last", "First Language", "Family")]
    [True, True, True, False, False]
    """
    return (*parts,) != ("family",) and any(
        word in PART_OF_NAME and (following in NAME | PART_OF_NAME | INITIAL or word not in WHICH)
        for word, following in pairwise((*parts, "name"))
    )


def is_count(parts: Sequence[str]) -> bool:
    """Whether a header with these words says how many of something there are.

    >>> [is_count(words(header)) for header in ("No of Guests", "Number Berths", "Total Number of Crew")]
    [True, True, True]
    >>> [is_count(words(header)) for header in ("No", "Boat No", "Reg No of Boat", "Number Plate")]
    [False, False, False, False]
    """
    said = [*dropwhile(MEASURE.__contains__, parts)]
    if len(said) < 2 or said[0] not in NUMBERS_OF:
        return False
    return said[1] == "of" or singular(said[-1]) != said[-1]


def numbers_lines(parts: Sequence[str]) -> bool:
    """Whether a header with these words is of the numbers of lines under something; what an item costs is none of them.

    A position at the finish or in a league is none, either.

    >>> [numbers_lines(words(header)) for header in ("Line No", "Item", "PO Position", "Item Price", "Finish Position")]
    [True, True, True, False, False]
    """
    ranked = parts[-1:] == ("position",) and not {*parts} <= LINE | DOCUMENT | IDENTIFIER
    return not LINE.isdisjoint(parts) and not ranked and not is_measure(parts)


def is_identifier(parts: Sequence[str]) -> bool:
    """Whether a header with these words says that it identifies something by a code or a number.

    >>> [is_identifier(words(header)) for header in ("Boat Reg", "berthid", "Paid", "Owner", "No of Boats")]
    [True, True, False, False, False]
    """
    coded = any(
        word in IDENTIFIER or (re.fullmatch("[a-z]+(id|code)", word) and word not in NO_IDENTIFIER) for word in parts
    )
    return coded and ADDRESS.isdisjoint(parts) and not is_count(parts)


def is_measure(parts: Sequence[str]) -> bool:
    """Whether a header with these words speaks of what is measured.

    >>> [is_measure(words(header)) for header in ("Cost", "Size (m)", "No of Boats", "Cost Centre Name", "Price Code")]
    [True, True, True, False, False]
    >>> [is_measure(words(header)) for header in ("Fine", "Hire Charge", "Rent Collector", "Deposit Account")]
    [True, True, False, False]
    """
    if is_count(parts) or not MONEY.isdisjoint(parts[-1:]):
        return True
    said = [word for word in parts if word not in NAME]
    return not MEASURE.isdisjoint(said) and said[-1] not in UNDER and not is_identifier(said[-1:])


def is_value(header: str) -> bool:
    """Whether a header says only that it is the value of something.

    >>> is_value("Value"), is_value("Default Value"), is_value("Value Type"), is_value("?")
    (True, True, False, False)
    """
    said = words(header)
    return bool(said) and VALUE.issuperset(said)


def is_nameless(header: str) -> bool:
    """Whether a column has no header of its own, and is called after its letters.

    >>> is_nameless("Column C"), is_nameless("Column Height")
    (True, False)
    """
    return re.fullmatch(r"Column [A-Z]{1,3}", header) is not None


def is_document(header: str) -> bool:
    """Whether a header says that it numbers what is written about something that happened.

    >>> is_document("Invoice No"), is_document("Invoice"), is_document("Boat No")
    (True, False, False)
    """
    return is_identifier(words(header)) and not DOCUMENT.isdisjoint(stem_of(header))


def is_called_document(header: str) -> bool:
    """Whether a header says no more than which document it is.

    >>> [is_called_document(header) for header in ("Ticket", "Delivery Note", "Del Note", "Ticket Price", "Note", "?")]
    [True, True, True, False, False, False]
    """
    said = {*words(header)} - {"note", "slip"}
    return bool(said) and said <= DOCUMENT | {"del"}


def numbers_document(header: str) -> bool:
    """Whether a column has documents by their numbers, or says no more than which document it is.

    >>> numbers_document("Invoice No"), numbers_document("Ticket"), numbers_document("Boat No")
    (True, True, False)
    """
    return is_document(header) or is_called_document(header)


def is_of_kind(header: str) -> bool:
    """Whether a header says of what kind something is, or which job somebody does.

    >>> is_of_kind("Hull Type"), is_of_kind("Job Title"), is_of_kind("Job Title Code")
    (True, True, False)
    """
    said = words(header)
    return bool(said) and ((said[:-1] if said[-1] == "title" else said) or said)[-1] in KIND


def is_price(parts: Sequence[str]) -> bool:
    """Whether a header with these words says what one of something costs; what a question asks is no price.

    >>> [is_price(words(header)) for header in ("Price", "Unit Cost", "Cost", "Unit", "Q3 Price")]
    [True, True, False, False, False]
    """
    if parts and re.fullmatch(r"q\d*", parts[0]):
        return False
    return not PRICE.isdisjoint(parts) or (not UNIT.isdisjoint(parts) and is_measure(parts))


def with_names(headers: Sequence[str]) -> set[tuple[str, ...]]:
    """The words for what other columns have the names of: they say so, or the last of the words, or stand right behind.

    >>> with_names(["Cost Centre", "Cost Centre Name", "Name"])
    {('cost', 'centre')}
    >>> with_names(["Boat", "Name", "Age", "Name", "Lane", "Surname"])
    {('boat',)}
    """
    said = [*map(words, headers)]
    named = {parts[:-1] for parts in said if len(parts) > 1 and NAME.issuperset(parts[-1:])}
    behind = {before for before, parts in pairwise(said) if _is_bare_name(parts) and _may_have_names(before)}
    return named | behind | {*named_in_short(headers).values()}


def named_in_short(headers: Sequence[str]) -> dict[str, tuple[str, ...]]:
    """For each header of names that says only the last words of what they are of, all of the words.

    >>> named_in_short(["Cost Centre", "Centre Name"]), named_in_short(["Home Club", "Away Club", "Club Name"])
    ({'Centre Name': ('cost', 'centre')}, {})
    """
    said = {header: words(header) for header in headers}
    found = {}
    for header, parts in said.items():
        if len(parts) > 1 and NAME.issuperset(parts[-1:]):
            whole = [other for other in said.values() if other[-len(parts) + 1 :] == parts[:-1]]
            found.update({header: whole[0]} if len(whole) == 1 and whole[0] != parts[:-1] else {})
    return found


def _is_bare_name(parts: Sequence[str]) -> bool:
    """Whether a header says that its column has names, or parts of them, and not of what."""
    return bool(parts) and (NAME | PART_OF_NAME | FULL).issuperset(parts)


def _may_have_names(parts: Sequence[str]) -> bool:
    """Whether a header may be of what has names: it is no name itself, nothing measured, and no place in an order."""
    return bool(parts) and not is_measure(parts) and (LINE | ORDER | NAME).isdisjoint(parts)


def stem_of(header: str) -> tuple[str, ...]:
    """What a header speaks of: its words without those for identifiers, names and parts of names.

    >>> stem_of("Boat Reg"), stem_of("OwnerName"), stem_of("berthid"), stem_of("ID")
    (('boat',), ('owner',), ('berth',), ())
    """
    parts = tuple(word for word in words(header) if word not in IDENTIFIER | NAME | PART_OF_NAME)
    if parts and parts[-1] not in LABEL and is_identifier(parts[-1:]):
        parts = (*parts[:-1], re.sub("(id|code)$", "", parts[-1]))
    return parts


def shown_together(headers: Iterable[str | None]) -> str:
    """Headers that are meant together, for somebody to read.

    >>> shown_together(["Boat Reg", "Date"])
    "'Boat Reg' + 'Date'"
    """
    return " + ".join(f"'{header}'" for header in headers)


def has_codes_of(header: str, name: str) -> bool:
    """Whether a header says that its column has the codes of what another one names.

    >>> has_codes_of("Boat Reg", "Boat"), has_codes_of("Boat Reg", "Berth"), has_codes_of("Boat Name", "Boat")
    (True, False, False)
    """
    about = stem_of(name)
    return bool(about) and stem_of(header) == about and is_identifier(words(header))


def is_plural(header: str) -> bool:
    """Whether a header speaks of several things, as one does over the number of them.

    >>> is_plural("Skeins"), is_plural("Parts Used"), is_plural("Class"), is_plural("Berth")
    (True, True, False, False)
    """
    parts = [word for word in words(header) if not is_participle(word)]
    return bool(parts) and singular(parts[-1]) != parts[-1]


def is_doer(header: str) -> bool:
    """Whether a header says who does something about it.

    >>> is_doer("Assigned To"), is_doer("Tested By"), is_doer("By"), is_doer("Goes To")
    (True, True, True, False)
    """
    said = words(header)
    return said == ("by",) or (len(said) > 1 and is_participle(said[-2]) and said[-1] in ("to", "by", "from"))


def is_of_matter(header: str) -> bool:
    """Whether a header says how a matter stands, who does something about it, or how it was paid.

    >>> is_of_matter("Priority"), is_of_matter("Assigned To"), is_of_matter("Payment Method"), is_of_matter("Sort")
    (True, True, True, False)
    """
    said = words(header)
    paid = said[:1] == ("payment",) and not {"type", "method", "mode"}.isdisjoint(said[1:])
    return paid or is_doer(header) or not STATE.isdisjoint(said)


def is_of_keywords(header: str) -> bool:
    """Whether a header speaks of several words that each hold of a thing.

    >>> is_of_keywords("Skills"), is_of_keywords("Skill"), is_of_keywords("Parts")
    (True, False, False)
    """
    return is_plural(header) and singular(words(header)[-1]) in KEYWORD


def in_full(parts: Sequence[str]) -> tuple[str, ...]:
    """Words with those in full that headers say in short; nothing if none is.

    >>> in_full(("emp",)), in_full(("boat",))
    (('employee',), ())
    """
    return tuple(SHORT.get(part, part) for part in parts) if any(part in SHORT for part in parts) else ()


def is_part(header: str) -> bool:
    """Whether a header says that the column is a part of a person's name.

    >>> is_part("Owner Last Name"), is_part("Owner Name")
    (True, False)
    """
    return bool(PART_OF_NAME.intersection(words(header)))


def parts_among(headers: Collection[str]) -> set[str]:
    """The headers that say that a column is a part of a person's name; a family is none where its address stands, or
    who is of it.

    >>> parts_among(["Family", "Age"]), parts_among(["Family", "Address"]), parts_among(["Family", "Child"])
    ({'Family'}, set(), set())
    """
    said = {header: words(header) for header in headers}
    household = any(not (ADDRESS | OF_FAMILY).isdisjoint(parts) for parts in said.values())
    return {header for header, parts in said.items() if is_part(header) and not (household and parts == ("family",))}


def is_person(headers: Sequence[str]) -> bool:
    """Whether two columns are the parts of one name.

    >>> is_person(("Owner First Name", "Owner Last Name")), is_person(("Owner First Name", "Crew Last Name"))
    (True, False)
    """
    return len(headers) == 2 and all(map(is_part, headers)) and len({*map(stem_of, headers)}) == 1


def snake(parts: Iterable[str]) -> str:
    """Words as one name for a database; a name does not start with a digit.

    >>> snake(("boat", "reg")), snake(("2026",))
    ('boat_reg', 'n_2026')
    """
    name = "_".join(parts)[:LONGEST_NAME].rstrip("_")
    return f"n_{name}" if name[:1].isdigit() else name


def unused(name: str, taken: Container[str], fallback: str) -> str:
    """The name, or the fallback if nothing is left of it, with a number if it is taken.

    >>> unused("boats", {"boats"}, "t"), unused("", (), "column_c")
    ('boats_2', 'column_c')
    """
    name = name or fallback
    candidate, count = name, 1
    while candidate in taken:
        count += 1
        candidate = f"{name}_{count}"
    return candidate
