"""What the names of files say, their parts and the month, year or week in them; and what headings of rows name."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from hemplit.core.model.grid import base_name
from hemplit.core.shape.looks import MONTHS
from hemplit.core.texts.moments import is_called_period

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Sequence

#: A date with its month, words with blanks between them, or a number.
PARTS = re.compile(r"\d{4}[-_.]\d{1,2}(?:[-_.]\d{1,2})?(?!\d)|[^\W\d_]+(?:[ '][^\W\d_]+)*|\d+")
#: What headings are that have no word in common.
SECTION = "Section"
#: What a part says, by its form.
FORMS = {
    "Year": re.compile(r"(?:19|20)\d{2}"),
    "Month": re.compile(r"\d{4}[-_.]\d{1,2}"),
    "Day": re.compile(r"\d{4}[-_.]\d{1,2}[-_.]\d{1,2}"),
    "Week": re.compile(r"(?:w|kw|week)\d{1,2}", re.IGNORECASE),
}


def stem_of_file(path: str) -> str:
    """The name of a file without its ending."""
    return base_name(path).rsplit(".", 1)[0]


def name_parts(path: str) -> list[str]:
    """The parts of the name of a file.

    >>> name_parts("yard/2026-04 North Dock.csv")
    ['2026-04', 'North Dock']
    """
    return PARTS.findall(stem_of_file(path))


def stretch_of(values: Iterable[str]) -> str:
    """Whether parts of names are years, months, days or weeks; empty if they are something else.

    >>> stretch_of(["2026-04", "May"]), stretch_of(["2026-04", "North"])
    ('Month', '')
    """
    values = [*values]
    if all(FORMS["Month"].fullmatch(value) or value.lower() in MONTHS for value in values):
        return "Month"
    return next((name for name, form in FORMS.items() if all(map(form.fullmatch, values))), "")


def period_in(path: str) -> str:
    """The month, year or week in the name of a file; empty if there is none.

    >>> period_in("fees-2026-10.csv"), period_in("2026 jobs.csv"), period_in("boats-2026-10-28.csv")
    ('2026-10', '2026', '')
    """
    return " ".join(text for text in name_parts(path) if is_called_period(stretch_of([text])))


def name_of_headings(texts: Sequence[str], taken: Collection[str]) -> str:
    """What the headings are: the last word of all of them.

    >>> name_of_headings(["North Dock", "South Dock"], []), name_of_headings(["Masts", "Ropes"], [])
    ('Dock', 'Section')
    >>> name_of_headings(["North Dock", "South Dock"], ["Berth", "Dock"])
    'Dock Above'
    """
    last = {text.split()[-1] for text in texts if len(text.split()) > 1}
    name = last.pop() if len(last) == 1 and all(len(text.split()) > 1 for text in texts) else SECTION
    while name in taken:
        name = f"{name} Above"
    return name
