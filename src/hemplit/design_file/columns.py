"""The column lines of a design file."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

from hemplit.core import kinds
from hemplit.core.design.calendar import CALENDAR
from hemplit.core.design.formulas import IN_VIEWS
from hemplit.core.design.ids import NUMBER, STYLE
from hemplit.core.kinds.calendar import CalendarReader
from hemplit.core.model.design import ColumnPlan
from hemplit.core.model.findings import TOTAL, Formula
from hemplit.core.model.relation import Kind
from hemplit.design_file import values
from hemplit.design_file.words import BY_ONE, COLUMN_KEYS, FORMULAS
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping
NUMBER_TEXT = re.compile(r"-?\d+(\.\d+)?(e[-+]?\d+)?")


#: What a column is of another sheet's table: a reference, what names no row of it, or what the view takes from there.
ACROSS = ("to", "unmatched", "along", "unlike")


def column_plan(place: str, name: str, part: Any, sheet: str) -> ColumnPlan:
    """The column that a line of a table of a sheet says. Raises ``DesignError`` where it says none."""
    if not isinstance(part, dict):
        raise DesignError(place, "a column is written in braces", f'write columns.{name} = {{ from = "HEADER" }}')
    values.check_known(place, part, COLUMN_KEYS)
    alone = next((key for key in ("ids", "lowest", "part") if key in part), None)
    if not any(key in part for key in ("from", "to", "ids", "lowest", "part")) or (alone and len(part) > 1):
        raise DesignError(place, "a column has from, to, or ids alone", 'write { from = "HEADER" }')
    more = next((key for key in ACROSS if key in part), None)
    if "from" not in part or more:
        with_from = () if more and "from" in part else ("type", "format")
        computed = ("store", "places", "between", "by", *BY_ONE, *FORMULAS)
        extra = next((key for key in (*with_from, *computed) if key in part), None)
        if extra:
            raise DesignError(f"{place}.{extra}", f"'{extra}' goes with 'from'", "take it out")
    if ("along" in part) != ("gives" in part):
        raise DesignError(place, "along and gives go together", 'write along = "REFERENCE", gives = "COLUMN"')
    if more in ACROSS[1:] and ("from" not in part or sum(key in part for key in ACROSS) > 1):
        raise DesignError(f"{place}.{more}", f"'{more}' goes with 'from' alone", "take the rest out")
    by = next((key for key in ("named_by", "alike") if key in part), None)
    if by and not ("to" in part and "from" in part):
        raise DesignError(f"{place}.{by}", f"'{by}' goes with 'from' and 'to'", "take it out")
    if "ids" in part and part["ids"] != NUMBER and not STYLE.fullmatch(str(part["ids"])):
        hint = 'write ids = "number", or a first code such as "B-0001"'
        raise DesignError(f"{place}.ids", f"'{part['ids']}' is not a style of ids", hint)
    formula = _formula(place, part)
    store = values.flag(place, part, "store", True)
    if not store and formula is None:
        raise DesignError(f"{place}.store", "only a computed column need not be stored", "take store = false out")
    if "part" in part and part["part"] not in CALENDAR:
        raise DesignError(
            f"{place}.part", f"'{part['part']}' is no part of a date", nearest(str(part["part"]), CALENDAR)
        )
    said = _headers(place, part["from"], sheet) if "from" in part else {}
    return ColumnPlan(
        name,
        _kind(place, part),
        said.pop(sheet, ()),
        values.text(place, part, "to"),
        values.text(place, part, "ids"),
        values.flag(place, part, "required", False) or alone is not None,
        formula,
        store and "along" not in part,
        lowest=values.text(place, part, "lowest"),
        part=values.text(place, part, "part"),
        named_by=values.texts(place, "named_by", part["named_by"]) if "named_by" in part else (),
        alike=values.flag(place, part, "alike", False),
        unmatched=values.text(place, part, "unmatched"),
        unlike=values.text(place, part, "unlike"),
        along=(str(values.text(place, part, "along")), str(values.text(place, part, "gives")))
        if "along" in part
        else None,
        elsewhere=tuple(said.items()),
    )


def _headers(place: str, given: Any, sheet: str) -> dict[str, tuple[str, ...]]:
    """The headers that a column comes from, by the sheet in which they stand; of the table's own where none is said."""
    parts = given if isinstance(given, dict) else {sheet: given}
    headers = {name: values.texts(place, "from", said) for name, said in parts.items()}
    if not headers or not all(headers.values()) or any("" in said for said in headers.values()):
        raise DesignError(f"{place}.from", "this must be a header, or a list of them", 'write from = "HEADER"')
    return headers


def _kind(place: str, part: Mapping[str, Any]) -> Kind | None:
    word, form = values.text(place, part, "type"), values.text(place, part, "format") or ""
    if word is None:
        return None
    if word not in kinds.BY_WORD:
        raise DesignError(f"{place}.type", f"unknown type '{word}'", nearest(word, kinds.BY_WORD))
    reader = kinds.BY_WORD[word]
    if isinstance(reader, CalendarReader) and form not in reader.forms:
        raise DesignError(f"{place}.format", f"'{form}' is not a format of type '{word}'", nearest(form, reader.forms))
    if word == "yes/no" and len({half for half in form.split("/") if half}) != 2:
        raise DesignError(f"{place}.format", "a yes/no column needs its two words", 'write format = "Yes/No"')
    if word == "decimal" and form and form.strip("0") != ".":
        raise DesignError(f"{place}.format", "the format of a decimal shows its places", 'write format = "0.00"')
    return Kind(word, form)


def _formula(place: str, part: Mapping[str, Any]) -> Formula | None:
    used = [word for word in (*BY_ONE, *FORMULAS) if word in part]
    if len(used) > 1:
        raise DesignError(place, f"it is computed in two ways, {' and '.join(used)}", "keep one")
    by = values.text(place, part, "by")
    if (by is None) == any(word in BY_ONE for word in used):
        raise DesignError(
            place, f"{', '.join(BY_ONE)} and by go together", 'write for example range = "TABLE", by = "HEADER"'
        )
    if not used:
        return None
    if by is not None:
        return _by_one(place, part, used[0], by)
    operands = values.texts(place, used[0], part[used[0]])
    most = {"sum": 3, TOTAL: len(operands)}.get(used[0], 2)
    if not 2 <= len(operands) <= most:
        what = "a formula takes two headers, a sum also three, and a total any number"
        raise DesignError(f"{place}.{used[0]}", what, f'write {used[0]} = ["…", "…"]')
    between = part.get("between", "")
    if not isinstance(between, str):
        raise DesignError(f"{place}.between", "this must be a text in quotes", 'write between = " "')
    return Formula(used[0], operands, _places(place, part), between)


def _by_one(place: str, part: Mapping[str, Any], word: str, by: str) -> Formula:
    """What one other header gives: its class, a part of its date, or a constant more."""
    detail = str(values.text(place, part, word))
    if word == "tells" and detail not in IN_VIEWS:
        raise DesignError(f"{place}.tells", f"'{detail}' is no part of a date", nearest(detail, IN_VIEWS))
    if word == "plus" and not NUMBER_TEXT.fullmatch(detail):
        raise DesignError(f"{place}.plus", f"'{detail}' is no number", 'write plus = "12.5"')
    return Formula(BY_ONE[word], (by,), _places(place, part), detail)


def _places(place: str, part: Mapping[str, Any]) -> int:
    places = part.get("places", 0)
    if not isinstance(places, int) or isinstance(places, bool) or not 0 <= places <= 9:
        raise DesignError(f"{place}.places", "this is a number from 0 to 9", "write places = 2")
    return places
