"""Dates, times, and dates with a time. A text is one only if writing the value in the form gives the text again.

So ``31/02/2026`` is no date, and a column in which day and month could change places stays text until somebody says
which is which.
"""

from __future__ import annotations

from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.kinds.reader import all_match, only, only_form
from hemplit.core.model.relation import Kind
from hemplit.dataclasses import dataclass

#: The letters of a form, with the directive that reads and writes them and the texts they match.
LETTERS = (
    ("YYYY", "%Y", "[0-9]{4}"),
    ("MM", "%m", "[0-9]{2}"),
    ("DD", "%d", "[0-9]{2}"),
    ("hh", "%H", "[0-9]{2}"),
    ("mm", "%M", "[0-9]{2}"),
    ("ss", "%S", "[0-9]{2}"),
)
DATE_FORMS = (
    "YYYY-MM-DD",
    "DD/MM/YYYY",
    "MM/DD/YYYY",
    "DD.MM.YYYY",
    "DD-MM-YYYY",
    "MM-DD-YYYY",
    "YYYY/MM/DD",
    "YYYY.MM.DD",
)
TIME_FORMS = ("hh:mm", "hh:mm:ss")
#: What every form has in common; most texts are told by it at once.
ANY_FORM = r"[0-9]{2}[0-9:./T -]+"


def directives(form: str) -> str:
    """The form in the directives that ``strftime`` knows.

    >>> directives("DD/MM/YYYY")
    '%d/%m/%Y'
    """
    for letters, directive, _ in LETTERS:
        form = form.replace(letters, directive)
    return form


def pattern(form: str) -> str:
    """The texts that a form could have written.

    >>> pattern("hh:mm")
    '[0-9]{2}:[0-9]{2}'
    """
    form = form.replace(".", r"\.")
    for letters, _, digits in LETTERS:
        form = form.replace(letters, digits)
    return form


@dataclass(frozen=True)
class CalendarReader:
    """Reads the texts of one of the ``forms`` as values of ``storage``.

    >>> DATE.fit(pa.array(["01/02/2026", "28/02/2026"]))
    Kind(word='date', form='DD/MM/YYYY')
    >>> DATE.fit(pa.array(["01/02/2026", "03/04/2026"])) is None  # either could be the day
    True
    >>> DATE.fit(pa.array(["2026-02-30"])) is None  # no such day
    True
    """

    word: str
    forms: tuple[str, ...]
    storage: pa.DataType

    def fit(self, texts: pa.StringArray) -> Kind | None:
        if not all_match(texts, ANY_FORM):
            return None
        candidates = [form for form in self.forms if all_match(texts, pattern(form))]
        read = [(Kind(self.word, form), self.parse(texts, form)) for form in candidates]
        return only_form([(kind, values) for kind, values in read if not values.null_count])

    def parse(self, texts: pa.StringArray, form: str) -> pa.Array:
        # A time alone is read as on one fixed day: the library has no reader for times.
        day, layout = ("", form) if "YYYY" in form else ("2000-01-01 ", f"YYYY-MM-DD {form}")
        dated = pc.binary_join_element_wise(day, texts, "") if day else texts
        matching = pc.match_substring_regex(dated, f"^(?:{pattern(layout)})$")
        moments = pc.strptime(only(dated, matching), format=directives(layout), unit="s", error_is_null=True)
        same = pc.equal(_written(moments, layout), dated)
        return pc.cast(only(moments, pc.fill_null(same, False)), self.storage)

    def show(self, value: Any, form: str) -> str:
        return str(value.strftime(directives(form)))


def _written(moments: pa.Array, form: str) -> pa.Array:
    # Whole seconds are written without a fraction by formatting at second resolution.
    return pc.strftime(moments, format=directives(form), locale="C")


DATE = CalendarReader("date", DATE_FORMS, pa.date32())
TIME = CalendarReader("time", TIME_FORMS, pa.time32("s"))
MOMENT = CalendarReader(
    "date and time",
    tuple(f"{date}{between}{time}" for date in DATE_FORMS for between in (" ", "T") for time in TIME_FORMS),
    pa.timestamp("s"),
)
