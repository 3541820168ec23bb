"""Numbers as people write them (``1,250.00``, ``€ 40``, ``(12.50)``, ``7 %``, ``1.250,00``) become plain numbers.

What the marks mean is decided for the whole column: a point or a comma is the decimal mark if every number then reads.
Where both would do, as for ``1.250``, the other columns say which: a sheet whose prices have commas has points between
thousands. So has an amount of money, or a column beside dates such as 30.04.2026, if what is below a thousand has none.
A column of which one text does not read stays as it is, and so do digits that are no amount: with zeros in front, more
than fifteen, or in groups like a phone number. Numbers of things that a program wrote as decimals (``1001.0``) are
whole numbers again.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import TEXT, Step
from hemplit.core.shape.looks import are_grouped
from hemplit.core.shape.working import Working, rewritten, with_column
from hemplit.core.texts.vocabulary import CONTACT, NUMBERING
from hemplit.core.texts.words import is_identifier, is_measure, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping, Sequence

    from hemplit.core.model.relation import Kind
    from hemplit.core.shape.working import WorkingColumn

ACT = Act.READ_NUMBERS
DOTTED = r"\d{1,2}\.\d{1,2}\.(?:\d{4}|\d{2})"
SETTINGS = {"column": "column", "decimal": "mark", "sign": "text?", "whole": "flag?", "misfits": "misfits?"}
CURRENCY = r"€|\$|£|¥|CHF|EUR|USD|GBP|SEK|NOK|DKK|kr\.?|Fr\.?"
SIGN = r"[-+−–]?"
GAP = "[ \u00a0\u202f'’]"
POINT = rf"(?:0|[1-9]\d{{0,2}}(?:,\d{{3}})+|[1-9]\d{{0,2}}(?:{GAP}\d{{3}})+|[1-9]\d*)(?:\.\d+)?|\.\d+"
COMMA = rf"(?:0|[1-9]\d{{0,2}}(?:\.\d{{3}})+|[1-9]\d{{0,2}}(?:{GAP}\d{{3}})+|[1-9]\d*)(?:,\d+)?"
SHAPES = {
    mark: rf"\(?\s*{SIGN}\s*(?:{CURRENCY})?\s*{SIGN}\s*(?:{digits})\s*(?:{CURRENCY}|%)?\s*-?\)?"
    for mark, digits in ((".", POINT), (",", COMMA))
}
#: The same for a first look, which most columns fail at their first text.
FIRST = tuple(re.compile(shape) for shape in SHAPES.values())
PLAIN = re.compile(r"-?(?:0|[1-9]\d*)(?:\.\d+)?")
WHOLE = r"[1-9]\d*(?:\.0)?"
LONGEST = 15


def find(working: Working) -> Iterator[Step]:
    """A step for each column of numbers that are not plain."""
    able = [one for one in working.columns if len(one.cells.texts) and _could_be(one.cells.texts.slice(0, kinds.PROBE))]
    marks = {one.name: _marks(one) for one in able if not _all_match(one.cells.texts, PLAIN.pattern)}
    probes = [one.cells.texts.slice(0, kinds.PROBE) for one in working.columns if len(one.cells.texts)]
    dotted = any(_all_match(probe, DOTTED) for probe in probes)
    if dotted or [","] in marks.values():
        marks |= {one.name: _marks(one) for one in able if one.name not in marks and not is_identifier(words(one.name))}
    pointed = ["."] in marks.values()
    usual = "," if [","] in marks.values() and not pointed else "."
    for column in able:
        texts = column.cells.texts
        if _are_whole(texts, column.name):
            example = next(text for text in texts.to_pylist() if text.endswith(".0"))
            why = f"'{example}' is a number of something, {example.removesuffix('.0')}"
            yield Step(ACT, (("column", column.name), ("decimal", "."), ("whole", True)), why)
            continue
        mark, example = _decimal_mark(
            texts.to_pylist(), marks.get(column.name, []), usual, dotted=dotted and not pointed
        )
        if example:
            why = f"'{example}' is {plain_number(example, mark)}"
            settings = (("column", column.name), ("decimal", mark))
            sign = next((sign for text in texts.to_pylist() if (sign := sign_of(text))), "")
            yield Step(ACT, (*settings, ("sign", sign)) if sign else settings, why)


def _could_be(probe: pa.StringArray) -> bool:
    texts = probe.to_pylist()
    return any(all(map(shape.fullmatch, texts)) for shape in FIRST)


def _all_match(texts: pa.StringArray, pattern: str) -> bool:
    return bool(pc.all(pc.match_substring_regex(texts, f"^(?:{pattern})$")).as_py())


def _marks(column: WorkingColumn) -> list[str]:
    """The decimal marks with which all texts of a column read as amounts."""
    texts = column.cells.texts
    fitting = [mark for mark, shape in SHAPES.items() if _all_match(texts, shape)]
    return fitting if fitting and _are_amounts([str(text) for text in texts.to_pylist()], column.name) else []


def _decimal_mark(texts: Sequence[str], marks: Sequence[str], usual: str, *, dotted: bool = False) -> tuple[str, str]:
    """The decimal mark of a column, of two with which it reads the ``usual`` one, and a text that is not plain with it.

    Where dates are ``dotted``, and in money, points are between thousands if that explains which numbers have none.

    >>> _decimal_mark(["1.250", "40"], [".", ","], ","), _decimal_mark(["1.250", "40"], [".", ","], ".")
    ((',', '1.250'), ('.', ''))
    """
    differ = len(marks) > 1 and any(plain_number(text, ".") != plain_number(text, ",") for text in texts)
    mark = usual if usual in marks else next(iter(marks), "")
    bare = [re.sub(r"[^\d.]", "", text) for text in texts] if differ and (dotted or any(map(sign_of, texts))) else []
    if are_grouped(bare):
        mark = ","
    return mark, next((text for text in texts if marks and plain_number(text, mark) != text), "")


def _are_whole(texts: pa.StringArray, name: str) -> bool:
    """Whether numbers of things stand in a column as decimals, which programs make of them where one is blank."""
    said = words(name)
    if not is_identifier(said) or not NUMBERING.isdisjoint(said):
        return False
    pointed = pc.any(pc.ends_with(texts, ".0")).as_py()
    return bool(pointed and pc.all(pc.match_substring_regex(texts, f"^(?:{WHOLE})$")).as_py())


def sign_of(text: str) -> str:
    """The currency or the percent sign beside a number; empty if there is none.

    >>> [sign_of(text) for text in ("€ 40", "7 %", "12")]
    ['€', '%', '']
    """
    found = re.search(CURRENCY, text)
    return found.group(0) if found else "%" if "%" in text else ""


def misfits(working: Working, step: Step) -> Iterator[tuple[WorkingColumn, int]]:
    """The column and each of its texts, by code, that are no numbers of this sort: marked so, and with this sign."""
    column = working.named(step.text("column"))
    shape = re.compile(WHOLE if step.flag("whole") else SHAPES[step.text("decimal")])
    for code, text in enumerate(column.cells.texts.to_pylist() if column else ()):
        fits = shape.fullmatch(text) and sign_of(text) in ("", step.text("sign"))
        if column and (not fits or len(re.sub(r"\D", "", text)) > LONGEST):
            yield column, code


def _are_amounts(texts: Sequence[str], name: str) -> bool:
    if CONTACT.intersection(words(name)) and not is_measure(words(name)):
        return False
    if any(len(re.sub(r"\D", "", text)) > LONGEST for text in texts):
        return False
    percent = [text.rstrip(" )-").endswith("%") for text in texts]
    currencies = {found.group(0) for text in texts if (found := re.search(CURRENCY, text))}
    if len(currencies) > 1 or (any(percent) and not all(percent)):
        return False
    grouped = [text for text in texts if re.search(rf"\d{GAP}\d", text)]
    ungrouped = [text for text in texts if re.fullmatch(r"-?\d{4,}", text)]
    # Digits in groups are an amount if the small ones have none: else they may be the number of a phone or an account.
    return not grouped or (not ungrouped and (bool(currencies) or len(grouped) < len(texts)))


def plain_number(text: str, mark: str) -> str:
    """One number written plainly.

    >>> plain_number("€ 1,250.00", "."), plain_number("(40)", "."), plain_number("1.250,5", ",")
    ('1250.00', '-40', '1250.5')
    """
    digits = re.sub(r"[^\d.,]", "", re.sub(CURRENCY, "", text))
    digits = digits.replace("," if mark == "." else ".", "").replace(",", ".")
    digits = f"0{digits}" if digits.startswith(".") else digits
    negative = re.search(r"^\s*\(|[-−–]", text) is not None
    return f"-{digits}" if negative and digits.strip("0.") else digits


def read_grouped(working: Working, steps: Iterable[Step], kinds: Mapping[tuple[str, str], Kind]) -> Working:
    """The sheet with plain numbers where thousands have marks between, which the first month had none large enough for.

    ``kinds`` has the columns of numbers, as in a design; its ``steps`` say what the marks mean. Points are between
    thousands only in whole numbers: decimals have them as they are, or since a step read them.
    """
    marks = {step.text("decimal") for step in steps if step.act == ACT and not step.flag("whole")}
    mark, between = (",", ".") if marks == {","} else (".", ",")
    for column in working.columns:
        word, texts = kinds.get((working.name, column.name), TEXT).word, column.cells.texts
        able = word == "whole number" or (word == "decimal" and between == ",")
        if not able or not pc.any(pc.match_substring(texts, between)).as_py():
            continue
        fraction = r"(?:\.\d+)?" if word == "decimal" else ""
        grouped = re.compile(rf"-?[1-9]\d{{0,2}}(?:\{between}\d{{3}})+{fraction}")
        plain = [plain_number(text, mark) if grouped.fullmatch(text) else text for text in texts.to_pylist()]
        working = with_column(working, column, rewritten(column, pa.array(plain, pa.string()), ACT.number))
    return replace(working, children=tuple(read_grouped(child, steps, kinds) for child in working.children))


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with plain numbers in the column."""
    column = working.named(step.text("column"))
    if column is None:
        return working
    mark, end = step.text("decimal"), ".0" if step.flag("whole") else ""
    left = {code for _, code in misfits(working, step)}
    given = enumerate(column.cells.texts.to_pylist())
    plain = [text if code in left else plain_number(text, mark).removesuffix(end) for code, text in given]
    return with_column(working, column, rewritten(column, pa.array(plain, pa.string()), number))
