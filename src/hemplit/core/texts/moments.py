"""What headers say of when: a moment, the period of which a sheet tells, or a day that is told of a thing for good."""

from __future__ import annotations

from hemplit.core.texts.nouns import is_participle
from hemplit.core.texts.vocabulary import MOMENT
from hemplit.core.texts.words import stem_of, words

#: Words for a stretch of time of which a sheet may tell.
PERIOD = frozenset(
    "month year week quarter season period term mth yr wk qtr fy jahr monat woche kw quartal saison zeitraum"
    " annee mois semaine trimestre ano mes semana".split()
)
#: Words for whose months and years they are, where these say when and not of what.
RECKONED = frozenset(
    "calendar fiscal financial accounting tax pay payroll billing reporting report academic school".split()
)
#: A day of which a header says this is told of a thing, once for all.
FOR_GOOD = frozenset(
    "birth dob join joining hire start end launch build opening foundation registration expiry due purchase acquisition"
    " creation warranty installation manufacture release publication enrolment membership admission".split()
)


def is_moment_header(name: str) -> bool:
    """Whether a header says when, and not how much each day.

    >>> is_moment_header("Pay Day"), is_moment_header("Litres per Day")
    (True, False)
    """
    said = words(name)
    return bool(MOMENT.intersection(said)) and "per" not in said


def is_of_rows(header: str) -> bool:
    """Whether a header says of a day no more than that something happened then.

    >>> is_of_rows("Date"), is_of_rows("Lifted On"), is_of_rows("Start Date"), is_of_rows("Joined")
    (True, True, False, False)
    """
    said = words(header)
    return FOR_GOOD.isdisjoint(said) and not any(map(is_participle, said[-1:]))


def is_called_period(header: str) -> bool:
    """Whether a header says no more than of which stretch of time something tells.

    >>> [is_called_period(header) for header in ("Month", "Tax Year", "Year Built", "Model Year")]
    [True, True, False, False]
    """
    stem = {*stem_of(header)} - RECKONED
    return bool(stem) and stem <= PERIOD


def is_of_period(header: str) -> bool:
    """Whether a header says so, or on which date all was counted, read or closed.

    >>> is_of_period("Stocktake Date"), is_of_period("Week Ending"), is_of_period("Owner Since")
    (True, True, False)
    """
    return is_called_period(header) or (is_of_rows(header) and not MOMENT.isdisjoint(words(header)))
