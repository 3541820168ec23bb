"""What sort of column one is, by its header and its values: whether it could identify something at all."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.draft.weighing import LISTS, LONGEST_NAME
from hemplit.core.kinds.yes_no import PAIRS as YES_OR_NO
from hemplit.core.model.relation import TIMES
from hemplit.core.texts.moments import is_moment_header
from hemplit.core.texts.vocabulary import ADDRESS, CONTACT, FREE_TEXT, IDENTIFIER, MOMENT, POSTAL_CODE, SPOT, UNIT
from hemplit.core.texts.words import is_called_document, is_identifier, is_measure, is_value, stem_of, subject, words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.findings import ColumnFacts

#: A place is a part of an address, and a thing by itself only where it stands in so many rows on average.
PLACE_REPEATS = 4.0
#: What its header calls a code is one, unless it is longer than any.
LONGEST_CODE = 40
#: Units are no longer, few of them look like codes, and only short ones have capitals: L, EA, kWh.
LONGEST_UNIT, MOST_CODES, CAPITALS = 15, 0.5, 3
#: What stands beside yes and no.
OPEN = frozenset("na n/a ? unknown none tbc tbd".split())
#: Two words at least, the first and the last with a capital.
FULL_NAME = r"^\p{Lu}[^\d]* \p{Lu}[^\d ]*$"
#: Fewer numbers follow each other by accident.
FEWEST_NUMBERS = 5


def can_decide(facts: ColumnFacts) -> bool:
    """Whether a column is of the sort that identifies something."""
    return not why_not_deciding(facts)


def could_decide(facts: ColumnFacts) -> bool:
    """Whether a column is of that sort, though it may have one value only."""
    return not _why_not_by_sort(facts)


def why_not_deciding(facts: ColumnFacts) -> str:
    """Why a column is not of the sort that identifies something; empty if it is."""
    return "it has one value only" if facts.distinct < 2 else _why_not_by_sort(facts)


def _why_not_by_sort(facts: ColumnFacts) -> str:
    said = words(facts.name)
    named = is_identifier(said) or is_number_of_spot(facts) or is_called_document(facts.name)
    reasons: dict[str, bool] = {}
    if facts.kind.word == "text":
        reasons |= {f"'{facts.name}' holds sentences, not names": facts.mean_length > LONGEST_NAME}
    else:
        number = facts.kind.word == "whole number"
        measured = is_measure(words(facts.name))
        reasons |= {
            f"'{facts.name}' is a measure, and measures determine nothing": measured and number,
            f"'{facts.name}' holds {facts.kind.word}s, which identify nothing": not number,
            f"'{facts.name}' holds numbers, and its header does not say that they are given out": not named,
        }
    return _why_never_by_sort(facts) or next((reason for reason, holds in reasons.items() if holds), "")


def is_unit(facts: ColumnFacts) -> bool:
    """Whether a column says in what something is counted, such as pc, kg and m3; flats have numbers, wards capitals."""
    if facts.kind.word != "text" or UNIT.isdisjoint(words(facts.name)):
        return False
    if facts.code_like >= MOST_CODES and not all(one[:1].islower() for one in facts.examples):
        return False
    return facts.longest <= LONGEST_UNIT and all(one.islower() or len(one) <= CAPITALS for one in facts.examples)


def why_never(facts: ColumnFacts) -> str:
    """Why a column identifies nothing whatever the evidence; empty if it might."""
    return "it has one value only" if facts.distinct < 2 else _why_never_by_sort(facts)


def _why_never_by_sort(facts: ColumnFacts) -> str:
    said = subject(words(facts.name))
    free = not FREE_TEXT.isdisjoint(said) and not is_identifier(said) and not is_called_document(facts.name)
    text = facts.kind.word == "text"
    reasons = {
        f"'{facts.name}' tells how to reach somebody, and determines nothing": not CONTACT.isdisjoint(said),
        f"'{facts.name}' is a line of an address, and determines nothing": not ADDRESS.isdisjoint(said),
        f"'{facts.name}' holds sentences, not names": text and free,
        f"'{facts.name}' says yes or no": text and _says_yes_or_no(facts),
        f"'{facts.name}' holds amounts, which determine nothing": facts.amounts,
        f"'{facts.name}' holds dates, which identify nothing": facts.dates,
        f"'{facts.name}' holds several values in a cell": text and facts.list_like >= LISTS,
        f"'{facts.name}' says what was set or found, and determines nothing": is_value(facts.name),
    }
    return next((reason for reason, holds in reasons.items() if holds), "")


def _says_yes_or_no(facts: ColumnFacts) -> bool:
    """Whether a column says yes, no, or that nobody knows."""
    said = {one.lower() for one in facts.examples}
    return facts.distinct == len(facts.examples) and any(
        said >= {*pair} and said <= {*pair, *OPEN} for pair in YES_OR_NO
    )


def is_code(facts: ColumnFacts) -> bool:
    """Whether the values look like codes or numbers that were given out: short and without spaces."""
    if facts.kind.word == "whole number":
        return is_identifier(words(facts.name)) or is_postal_code(facts.name)
    said = words(facts.name)
    # The type of an ID and a key contact are no codes, unless they look like it.
    called = is_identifier(said) and (is_identifier(said[-1:]) or facts.code_like >= MOST_CODES)
    named = called and facts.longest <= LONGEST_CODE and facts.list_like == 0
    given_out = facts.code_like >= 0.95 and facts.longest <= 20 and not (facts.amounts or facts.dates)
    return facts.kind.word == "text" and (named or given_out)


def is_moment(facts: ColumnFacts) -> bool:
    """Whether a column tells when: a date, a time, a year."""
    return facts.kind.word in TIMES or facts.dates or is_moment_header(facts.name)


def is_measured(facts: ColumnFacts) -> bool:
    """Whether a header says that its numbers measure something or tell when, and are no numbers of things."""
    said = words(facts.name)
    return is_measure(said) or (not MOMENT.isdisjoint(said) and not is_identifier(said[-1:]))


def is_number_of_thing(facts: ColumnFacts) -> bool:
    """Whether whole numbers that identify a thing were given out to it, and do not measure it or tell when."""
    return facts.kind.word == "whole number" and not is_measured(facts)


def is_number_of_spot(facts: ColumnFacts) -> bool:
    """Whether a column holds whole numbers of rooms, berths or the like, which come again in each building or dock."""
    return facts.kind.word == "whole number" and not SPOT.isdisjoint(words(facts.name)[-1:])


def is_unbroken(facts: ColumnFacts) -> bool:
    """Whether a column has whole numbers of which none is missing, as numbers that are given out have."""
    if facts.kind.word != "whole number" or facts.lowest is None or facts.highest is None:
        return False
    return facts.distinct >= FEWEST_NUMBERS and facts.highest - facts.lowest + 1 == facts.distinct


def is_postal_code(name: str) -> bool:
    """Whether a header says so."""
    return bool(POSTAL_CODE.intersection(words(name)))


def reaches(name: str) -> bool:
    """Whether a header says how to reach somebody, by a telephone or an address."""
    return not (CONTACT | ADDRESS).isdisjoint(subject(words(name))) and not is_postal_code(name)


def is_mailbox(name: str) -> bool:
    """Whether a header says that it holds e-mail addresses, of which each person has their own."""
    return bool({*words(name)} & {"email", "mail"})


def is_contact_of(contact: str, name: str) -> bool:
    """Whether a header says how to reach what another names, or does not say whom.

    >>> [is_contact_of(header, "Owner") for header in ("Owner Phone", "Contact No", "Yard Phone")]
    [True, True, False]
    """
    about, said = stem_of(name), words(contact)
    whose = [word for word in said if word not in CONTACT | ADDRESS | IDENTIFIER | {"contact"}]
    return reaches(contact) and (not whose or (bool(about) and said[: len(about)] == about))


def is_homonym(left: Sequence[str]) -> bool:
    """Whether two columns are a name, and what tells those of one name apart."""
    return len(left) == 2 and reaches(left[1]) and not reaches(left[0])


def are_full_names(values: pa.Array) -> bool:
    """Whether texts are names of several words, which nobody else has, whatever the headers call whom they name.

    >>> are_full_names(pa.array(["Ann Roe", "Saltby Marine"])), are_full_names(pa.array(["Ann Roe", "Dark green"]))
    (True, False)
    """
    return pa.types.is_string(values.type) and bool(pc.all(pc.match_substring_regex(values, FULL_NAME)).as_py())
