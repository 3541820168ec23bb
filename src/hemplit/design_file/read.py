"""TOML → design, strictly: an unknown word, a wrong type or a contradiction is one line that names its place."""

from __future__ import annotations

import re
import tomllib
from typing import TYPE_CHECKING, Any

from hemplit.core.design.check import check
from hemplit.core.design.home import with_homes
from hemplit.core.model.design import (
    FORMS,
    PURPOSES,
    ColumnPlan,
    Design,
    Grain,
    Passage,
    Purpose,
    Rule,
    RuleKind,
    SheetPlan,
    TablePlan,
)
from hemplit.core.model.relation import Step
from hemplit.core.model.tally import Ask, Saved
from hemplit.core.shape import BY_ACT, area, atoms, dates, numbers
from hemplit.core.shape.compare import KEEP
from hemplit.core.texts.listed import PLAIN
from hemplit.design_file import values
from hemplit.design_file.columns import column_plan
from hemplit.design_file.locate import line_of
from hemplit.design_file.older import modern
from hemplit.design_file.words import FORMAT, GRAINS, SHEET_KEYS, TABLE_KEYS, TALLY_KEYS
from hemplit.errors import DesignError, Problems, nearest

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping
    from pathlib import Path

#: No sheet has more rows.
MOST = 1 << 31
#: A design of 16,384 columns has 2 million signs; a drafted one nests four deep, and its keys have four parts.
LONGEST, DEEPEST = 1 << 25, 30
TEXT_OR_COMMENT = re.compile(r'"""[\s\S]*?"""|' + r"'''[\s\S]*?'''" + r'|"(?:[^"\\\n]|\\.)*"|' + r"'[^'\n]*'|#[^\n]*")
DOTTED = r"(?:[\w-]+[ \t]*\.[ \t]*){30}"
OLD_ROWS = "steps know no rows by their numbers; see hemplit help design"
AS_DRAFTED = "see hemplit help design"
#: What the reader of TOML says, and what a person understands.
IN_PLAIN_WORDS = (
    ("Cannot overwrite", "this name stands twice in its section"),
    ("Cannot declare", "this section stands twice"),
    ("Duplicate inline table key", "a word stands twice between the braces"),
    ("Expected '='", "this line is no NAME = VALUE"),
    ("Invalid statement", "this line is no NAME = VALUE and no [SECTION]"),
    ("Invalid value", "what stands behind = is no text in quotes, number, true, false, list or braces"),
    ("Unclosed array", "a bracket [ is not closed"),
    ("Unclosed inline table", "a brace { is not closed"),
    (r"Illegal character '\n'", "a text is not closed with a quote"),
    ("Unterminated string", "a text is not closed with a quote"),
    ("Found invalid character", "a text is not closed with a quote"),
    ("Expected newline", "more than a value stands behind ="),
    ("Expected ']'", "a bracket [ is not closed"),
)


def from_toml(text: str, name: str) -> Design:
    """The design in a text; ``name`` is the file that messages name.

    Raises ``DesignError`` with the line of each fault that can be told at once.
    """
    check_size(text, name)
    try:
        data = modern(tomllib.loads(text))
    except tomllib.TOMLDecodeError as error:
        raise _not_toml(error, name) from error
    except (ValueError, RecursionError) as error:  # a number of thousands of digits, or what the check below let pass
        raise DesignError(name, f"this is no design ({error})", "compare it with one that was drafted") from error
    try:
        design = with_homes(_design(data))
        check(design)
    except DesignError as error:
        raise at_line(error, text, name) from error
    return design


def _not_toml(error: tomllib.TOMLDecodeError, name: str) -> DesignError:
    """What a reader of TOML finds wrong, at its line and in plain words as far as these are known."""
    said, _, place = str(error).rpartition(" (at ")
    line = re.match(r"line (\d+)", place)
    plain = next((words for start, words in IN_PLAIN_WORDS if said.startswith(start)), f"this is not TOML: {said}")
    where = f"{name} line {line[1]}" if line else name
    return DesignError(where, plain, "compare the line with those around it")


def check_size(text: str, name: str) -> None:
    """Raises ``DesignError`` before a reader works for minutes on what no design is: huge, or nested without end."""
    if len(text) > LONGEST:
        raise DesignError(
            name, f"it has {len(text):,} signs, and no design has more than {LONGEST:,}", "draft it again"
        )
    bare = TEXT_OR_COMMENT.sub("x", text)
    depth = 0
    for found in re.finditer(r"[\[\]{}]|\n\[|" + DOTTED, bare):
        sign = found.group(0)
        depth = 1 if sign == "\n[" else depth + (sign in "[{") - (sign in "]}")
        if depth > DEEPEST or len(sign) > 2:
            line = bare.count("\n", 0, found.start() + 1) + 1
            raise DesignError(
                f"{name} line {line}", "it is nested deeper than any design", "compare it with a drafted one"
            )


def text_of(path: Path) -> str:
    """The text of a design file. Raises ``DesignError`` if it cannot be read."""
    try:
        return path.read_text(encoding="utf-8-sig")
    except ValueError as error:
        if isinstance(error, UnicodeDecodeError):
            raise DesignError(str(path), "this is not text in UTF-8", "save it as UTF-8") from error
        raise DesignError(str(path), f"there is no such file ({error})", "check the name") from error
    except FileNotFoundError as error:
        folder = path.parent.absolute()
        raise DesignError(str(path), "there is no such file", f"look for it in {folder}") from error
    except OSError as error:
        raise DesignError(str(path), f"it cannot be read ({error.strerror})", "check the name") from error


def at_line(error: DesignError, text: str, name: str) -> DesignError:
    """The same error with the file and the line in front of its place."""
    line = line_of(text, error.where)
    made = DesignError(
        f"{name} line {line} ({error.where})" if line else f"{name} ({error.where})", error.what, error.hint
    )
    made.further = tuple(at_line(one, text, name) for one in error.further if isinstance(one, DesignError))
    return made


def _design(data: Mapping[str, Any]) -> Design:
    values.check_known("the file", data, ("format", "trail", "sheets", "tables", "tallies"))
    given = data.get("format")
    if given != FORMAT:
        newer = isinstance(given, int) and given > FORMAT
        hint = "take a newer Hemplit for it" if newer else f"write format = {FORMAT}, or draft the design again"
        raise DesignError("format", f"this version reads format = {FORMAT}", hint)
    sheets: list[SheetPlan] = []
    tables: list[TablePlan] = []
    problems = Problems()
    known = [*_tables_of(data, "sheets")]
    for name, part in _tables_of(data, "sheets").items():
        with problems.of_part():
            sheets.append(_sheet(name, part))
            of = sheets[-1].of
            if of is not None and of not in known:
                raise DesignError(f"sheets.{name}.of", f"there is no sheet '{of}'", nearest(of, known))
    for name, part in _tables_of(data, "tables").items():
        with problems.of_part():
            tables.append(_table(name, part, known))
    problems.check()
    told = data.get("trail", {})
    trail = told.get("passages", []) if isinstance(told, dict) else None
    if not isinstance(trail, list):
        raise DesignError("trail", "it holds a list of passages", "delete it: it only tells how the tables came to be")
    saved = [_saved(name, part) for name, part in _tables_of(data, "tallies").items()] if "tallies" in data else []
    return Design(tuple(sheets), tuple(tables), tuple(map(_passage, trail)), tallies=tuple(saved))


def _passage(part: Any) -> Passage:
    wanted = ("form", "table", "out_of", "headers", "why")
    if not isinstance(part, dict) or set(part) != set(wanted) or part["form"] not in FORMS:
        raise DesignError("trail", f"a passage has {', '.join(wanted)}", "delete the line: it only tells what was done")
    form, table, out_of, why = (str(part[key]) for key in ("form", "table", "out_of", "why"))
    return Passage(form, table, out_of, values.texts("trail", "headers", part["headers"]), why)


def _saved(name: str, part: Mapping[str, Any]) -> Saved:
    place = f"tallies.{name}"
    values.check_known(place, part, TALLY_KEYS)
    of, by, where = (values.texts(place, key, part.get(key, [])) for key in ("of", "by", "where"))
    if not of:
        raise DesignError(place, "it does not say what to add up", 'write of = ["COLUMN"]')
    return Saved(name, Ask(of, by, values.text(place, part, "across") or "", where))


def _tables_of(data: Mapping[str, Any], key: str) -> Mapping[str, Any]:
    part = data.get(key)
    if not isinstance(part, dict) or not part or not all(isinstance(one, dict) for one in part.values()):
        raise DesignError(key, f"there is no [{key}.NAME]", "every design has at least one")
    return part


def _sheet(name: str, part: Mapping[str, Any]) -> SheetPlan:
    place = f"sheets.{name}"
    values.check_known(place, part, SHEET_KEYS)
    file, of = values.text(place, part, "file"), values.text(place, part, "of")
    if sum(key in part for key in ("file", "of", "unites")) != 1:
        raise DesignError(place, "it has file, or of, or unites, and one of them alone", 'write file = "NAME.csv"')
    if "unites" in part:
        return _united(name, part)
    extra = next((key for key in ("by", "same") if key in part), None)
    if extra:
        raise DesignError(f"{place}.{extra}", f"'{extra}' goes with 'unites'", "take it out")
    steps = part.get("steps", [])
    if not isinstance(steps, list):
        raise DesignError(f"{place}.steps", "this must be a list", "write steps = [{ do = … }]")
    return SheetPlan(
        name,
        file or "",
        values.text(place, part, "sheet"),
        tuple(_step(f"{place}.steps", step) for step in steps),
        values.texts(place, "leave_out", part.get("leave_out", [])),
        of,
        values.text(place, part, "part") or "",
    )


def _united(name: str, part: Mapping[str, Any]) -> SheetPlan:
    """A sheet that is what several sheets tell of the same things."""
    place = f"sheets.{name}"
    extra = next((key for key in part if key not in ("unites", "by", "same")), None)
    if extra:
        raise DesignError(f"{place}.{extra}", f"'{extra}' does not go with 'unites'", "take it out")
    unites = values.texts(place, "unites", part["unites"])
    groups: dict[str, tuple[tuple[str, ...], ...]] = {}
    for key in ("by", "same"):
        given = part.get(key, [])
        if not isinstance(given, list):
            raise DesignError(f"{place}.{key}", "this must be a list of lists", f'write {key} = [["…", "…"]]')
        groups[key] = tuple(values.texts(place, key, one) for one in given)
        if any(len(one) != len(unites) for one in groups[key]):
            what = f"each list has one header for each of the {len(unites)} sheets"
            raise DesignError(f"{place}.{key}", what, 'write "" where a sheet has no such column')
    if len(unites) < 2 or not groups["by"] or any("" in one for one in groups["by"]):
        what = "it unites two sheets or more, by the headers that name the things in each"
        raise DesignError(f"{place}.unites", what, 'write unites = ["…", "…"], by = [["…", "…"]]')
    if not all(any(one) for one in groups["same"]):
        raise DesignError(f"{place}.same", "a list has no header", "take it out")
    return SheetPlan(name, "", unites=unites, same=(*groups["by"], *groups["same"]), by=len(groups["by"]))


def _step(place: str, part: Any) -> Step:
    act = str(part.get("do", "")) if isinstance(part, dict) else ""
    if act not in BY_ACT:
        raise DesignError(place, f"unknown step '{act}'", nearest(act, BY_ACT))
    settings = {key: value for key, value in part.items() if key != "do"}
    wanted = BY_ACT[act].SETTINGS
    needed = [key for key, sort in wanted.items() if not sort.endswith("?")]
    if not set(needed) <= set(settings) <= set(wanted):
        takes = ", ".join(key if key in needed else f"{key} if need be" for key in wanted) or "nothing more"
        hint = OLD_ROWS if "rows" in settings else AS_DRAFTED
        raise DesignError(place, f"step '{act}' takes {takes}", hint)
    for key, value in settings.items():
        fits, wanted_value = SETTINGS[wanted[key].removesuffix("?")]
        if not fits(value):
            raise DesignError(place, f"'{key}' of step '{act}' must be {wanted_value}", AS_DRAFTED)
    if act == area.ACT and not settings:
        raise DesignError(place, f"step '{act}' takes names or an area", 'write names = ["HEADER", …]')
    step = Step(act, tuple((key, _frozen(value)) for key, value in settings.items()))
    fault = getattr(BY_ACT[act], "fault", None)
    wrong = fault(step) if fault else ""
    if wrong:
        raise DesignError(place, f"step '{act}': {wrong}", AS_DRAFTED)
    return step


def _is_texts(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and all(isinstance(one, str) and one for one in value)


def _is_blocks(value: Any) -> bool:
    if not isinstance(value, list) or not all(isinstance(block, list) for block in value):
        return False
    alike = len({len(block) for block in value}) == 1
    return alike and bool(value[0]) and all(isinstance(one, str) for block in value for one in block)


def _is_number(value: Any, lowest: int) -> bool:
    return isinstance(value, int) and not isinstance(value, bool) and lowest <= value <= MOST


#: What a setting of a step may be, and that in words.
SETTINGS: dict[str, tuple[Callable[[Any], bool], str]] = {
    "text": (lambda value: isinstance(value, str) and bool(value), "a text"),
    "texts": (_is_texts, "a list of texts"),
    "text or texts": (
        lambda value: _is_texts(value if isinstance(value, list) else [value]),
        "a text or a list of texts",
    ),
    "column": (lambda value: isinstance(value, str) and bool(value), "a header"),
    "columns": (lambda value: value == [] or _is_texts(value), "a list of headers"),
    "key": (_is_texts, "a list of headers"),
    "number": (lambda value: _is_number(value, 0), f"a number from 0 to {MOST:,}"),
    "lines": (lambda value: value in (1, 2) and not isinstance(value, bool), "1 or 2"),
    "flag": (lambda value: isinstance(value, bool), "true or false"),
    "area": (lambda value: isinstance(value, str) and area.is_area(value), "a range such as A4:D90"),
    "blocks": (_is_blocks, "a list of lists of headers, all of one length"),
    "mark": (lambda value: value in numbers.SHAPES, "the decimal mark, a point or a comma"),
    "order": (lambda value: value in (dates.DAY_FIRST, dates.MONTH_FIRST), "day first or month first"),
    "parts": (lambda value: isinstance(value, str) and value in atoms.SHAPES, "one of " + "; ".join(atoms.SHAPES)),
    "separator": (lambda value: isinstance(value, str) and value in PLAIN, "one of " + ", ".join(PLAIN)),
    "misfits": (lambda value: value in ("stop", KEEP), f"stop or {KEEP}"),
}


def _frozen(value: Any) -> Any:
    return tuple(_frozen(one) for one in value) if isinstance(value, list) else value


def _table(name: str, part: Mapping[str, Any], sheets: list[str]) -> TablePlan:
    place = f"tables.{name}"
    values.check_known(place, part, TABLE_KEYS)
    sheet = values.text(place, part, "sheet")
    if sheet not in sheets:
        raise DesignError(f"{place}.sheet", f"there is no sheet '{sheet}'", nearest(str(sheet), sheets))
    purpose = values.text(place, part, "purpose") or Purpose.ENTITY
    if purpose not in PURPOSES:
        raise DesignError(f"{place}.purpose", f"unknown purpose '{purpose}'", nearest(purpose, PURPOSES))
    columns = part.get("columns")
    if not isinstance(columns, dict) or not columns:
        raise DesignError(place, "it has no columns", 'write columns.NAME = { from = "HEADER" }')
    grain, of = _grain(place, part)
    unique = part.get("unique", [])
    if not isinstance(unique, list):
        raise DesignError(f"{place}.unique", "this must be a list of lists", 'write unique = [["…"]]')
    plans: list[ColumnPlan] = []
    problems = Problems()
    for column, given in columns.items():
        with problems.of_part():
            plans.append(column_plan(f"{place}.columns.{column}", column, given, str(sheet)))
    problems.check()
    return TablePlan(
        name,
        str(sheet),
        Purpose(purpose),
        values.texts(place, "key", part.get("key", [])),
        tuple(plans),
        grain,
        tuple(values.texts(place, "unique", one) for one in unique),
        rules=_rules(place, part.get("rules", [])),
        of=of,
    )


def _grain(place: str, part: Mapping[str, Any]) -> tuple[Grain, str | None]:
    """How many rows the sheet gives a table, and the table to which these belong."""
    if values.flag(place, part, GRAINS[Grain.ROW], False):
        found: list[tuple[Grain, str | None]] = [(Grain.ROW, None)]
    else:
        found = []
    for grain in (Grain.LIST, Grain.SUBSET):
        of = values.text(place, part, GRAINS[grain])
        found += [(grain, of)] if of is not None else []
    if len(found) > 1:
        one, other = (GRAINS[grain] for grain, _ in found[:2])
        raise DesignError(place, f"'{one}' and '{other}' exclude each other", "keep one of them")
    return found[0] if found else (Grain.VALUE, None)


#: For each kind of rule how many columns it names, and whether it names values.
RULES = {
    RuleKind.MIN: (1, True),
    RuleKind.ALLOWED: (1, True),
    RuleKind.ONE_FILLED: (2, False),
    RuleKind.FILLED_ONLY_IF: (2, True),
    RuleKind.PATTERN: (1, True),
}


def _rules(place: str, part: Any) -> tuple[Rule, ...]:
    if not isinstance(part, list) or not all(isinstance(one, dict) for one in part):
        raise DesignError(f"{place}.rules", "this must be a list of rules", AS_DRAFTED)
    made = []
    for one in part:
        kind = str(one.get("rule", ""))
        if kind not in RULES:
            raise DesignError(f"{place}.rules", f"unknown rule '{kind}'", nearest(kind, RULES))
        columns, named = (values.texts(f"{place}.rules", key, one.get(key, [])) for key in ("columns", "values"))
        if (len(columns), bool(named)) != RULES[RuleKind(kind)] or set(one) - {"rule", "columns", "values"}:
            raise DesignError(f"{place}.rules", f"rule '{kind}' has other parts than these", AS_DRAFTED)
        if kind == RuleKind.MIN and not re.fullmatch(r"-?\d+(\.\d+)?", named[0]):
            raise DesignError(f"{place}.rules", f"'{named[0]}' is no number", 'write values = ["0"]')
        made.append(Rule(RuleKind(kind), columns, named))
    return tuple(made)
