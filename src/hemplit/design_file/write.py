"""Design → TOML with the reasons as comments, one column per line, the columns of a table aligned."""

from __future__ import annotations

from hashlib import sha256
from typing import TYPE_CHECKING, Any

from hemplit.core.model.design import Grain
from hemplit.core.model.findings import BAND, DATE_PART, JOINED
from hemplit.design_file import toml
from hemplit.design_file.words import BY_ONE, DRAFTED, FORMAT, GRAINS

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, Passage, Rule, SheetPlan, TablePlan
    from hemplit.core.model.findings import Formula
    from hemplit.core.model.relation import Step
    from hemplit.core.model.tally import Saved

#: Comments behind a column line start in this text column at the latest; beyond, one blank after the line.
COMMENT_AT = 76

HEAD = """\
# The design for {sheets}: {count} tables, drafted by Hemplit. It is yours to edit.
#   hemplit load {name} --into NAME.sqlite
#
# In a column line 'from' is the header in the sheet, 'to' the table whose key it holds, 'ids' a generated number.
# Rename a table in its [line] and wherever 'to' names it. Move a column by moving its line to another table.
# Where 'from' lists several headers, these are roles of one entity; 'from' beside 'to' says which of them is meant.
# Where several sheets fill a table, 'from' has the header in each; what one of them never says is blank in its rows.
# Drop a table by deleting its section: its columns go to the table that referred to it.
# Store a calculated column with store = true. Leave a column out by naming its header in leave_out.
# Each step is a line: delete it, with all that depends on it, or remove the # before a proposed one to have it done.
# Where that gives other columns, rows or tables, draft the same sheets again with --update.
# A rule with a # before it holds in all rows now, and is enforced once the # is gone.
"""


def to_toml(design: Design, name: str = "NAME.design.toml") -> str:
    """The text of the design file; the same design gives the same text."""
    parts = [HEAD.format(sheets=design.files, count=len(design.tables), name=name), f"format = {FORMAT}\n"]
    parts += [_sheet(sheet) for sheet in design.sheets]
    parts += [_table(table) for table in design.tables]
    parts += [_saved(saved) for saved in design.tallies]
    if design.trail:
        head = [
            "# How the tables came out of one another, by normal forms. For hemplit why only: edits change nothing.",
            "[trail]",
            "passages = [",
        ]
        parts.append("\n".join([*head, *map(_passage, design.trail), "]\n"]))
    return with_mark("\n".join(parts))


def with_mark(text: str) -> str:
    """The text with its mark at the end, in the place of an older one: as it is, it was drafted."""
    body, found, _ = text.rpartition(f"\n{DRAFTED}")
    body = body if found else text
    return f"{body}\n{DRAFTED}{_mark(body)}\n"


def is_edited(text: str) -> bool:
    """Whether a design file is no longer as it was drafted."""
    body, found, mark = text.rpartition(f"\n{DRAFTED}")
    return not found or _mark(body) != mark.strip()


def without_mark(text: str) -> str:
    """A design that holds what a person decided, which no draft writes over unasked."""
    return text.rpartition(DRAFTED)[0].rstrip("\n") + "\n"


def _mark(text: str) -> str:
    return sha256("\n".join(text.splitlines()).encode()).hexdigest()[:16]


def _line(key: str, value: Any) -> str:
    return f"{key} = {toml.value(value)}"


def _comment(why: str) -> str:
    return " ".join(why.split())


def _sheet(sheet: SheetPlan) -> str:
    lines = [f"[{toml.key('sheets', sheet.name)}]"]
    if sheet.of is not None:
        lines += [_line("of", sheet.of), _line("part", sheet.part)]
    elif sheet.unites:
        lines.insert(0, "# what several sheets tell of, as one sheet; where they differ, the first is right")
        lines += [_line("unites", sheet.unites), _line("by", sheet.same[: sheet.by])]
        if sheet.same[sheet.by :]:
            lines.append(_line("same", sheet.same[sheet.by :]))
    else:
        lines.append(_line("file", sheet.file))
    if sheet.sheet is not None:
        lines.append(_line("sheet", sheet.sheet))
    if sheet.steps:
        lines.append("steps = [")
        lines += [step_line(step, proposed=step.proposed) for step in sheet.steps]
        lines.append("]")
    if sheet.leave_out:
        lines.append(_line("leave_out", sheet.leave_out))
    return "\n".join(lines) + "\n"


def step_line(step: Step, *, proposed: bool) -> str:
    """The line of a step; what is only proposed has a # before it."""
    why = f"  # {_comment(step.why)}" if step.why else ""
    return f"{'# ' if proposed else '  '}{toml.value({'do': step.act, **dict(step.settings)})},{why}"


def _passage(passage: Passage) -> str:
    pairs = {
        "form": passage.form,
        "table": passage.table,
        "out_of": passage.out_of,
        "headers": passage.headers,
        "why": passage.why,
    }
    return f"  {toml.value(pairs)},"


def _table(table: TablePlan) -> str:
    lines = [f"# {_comment(table.why)}"] if table.why else []
    lines += [
        f"[{toml.key('tables', table.name)}]",
        _line("sheet", table.sheet),
        _line("purpose", table.purpose),
    ]
    if table.grain is not Grain.VALUE:
        lines.append(_line(GRAINS[table.grain], table.of or True))
    lines.append(_line("key", table.key))
    if table.unique:
        lines.append(_line("unique", [list(columns) for columns in table.unique]))
    if table.rules:
        lines += ["rules = [", *map(_rule, table.rules), "]"]
    keys = [toml.key("columns", column.name) for column in table.columns]
    width = max(len(key) for key in keys)
    lines += [_column_line(f"{key:<{width}}", table, column) for key, column in zip(keys, table.columns, strict=True)]
    return "\n".join(lines) + "\n"


def _saved(saved: Saved) -> str:
    ask = saved.ask
    told = {"of": ask.of, "by": ask.by, "across": ask.across, "where": ask.where}
    lines = [f"[{toml.key('tallies', saved.name)}]", *(_line(key, value) for key, value in told.items() if value)]
    return "\n".join(lines) + "\n"


def _rule(rule: Rule) -> str:
    pairs: dict[str, Any] = {"columns": rule.columns, "rule": rule.kind}
    if rule.values:
        pairs["values"] = rule.values
    mark = "# " if rule.proposed else "  "
    return f"{mark}{toml.value(pairs)},  # {_comment(rule.why)}"


def _column_line(key: str, table: TablePlan, column: ColumnPlan) -> str:
    line = f"{key} = {toml.value(_column(table, column))}"
    why = _comment(column.why)
    return f"{line:<{COMMENT_AT}}  # {why}" if why else line


def column_line(table: TablePlan, column: ColumnPlan) -> str:
    """The line of a column, by itself."""
    return _column_line(toml.key("columns", column.name), table, column)


def _column(table: TablePlan, column: ColumnPlan) -> dict[str, Any]:
    pairs: dict[str, Any] = {}
    said = {sheet: table.headers_in(sheet, column) for sheet in table.sheets}
    shown = {sheet: headers if len(headers) > 1 else headers[0] for sheet, headers in said.items() if headers}
    if shown:
        pairs["from"] = shown if column.elsewhere else shown[table.sheet]
    told = {
        "to": column.to,
        "named_by": column.named_by or None,
        "alike": column.alike or None,
        "unmatched": column.unmatched,
        "unlike": column.unlike,
        "ids": column.ids,
    }
    pairs |= {key: value for key, value in told.items() if value is not None}
    if column.along is not None:
        pairs |= {"along": column.along[0], "gives": column.along[1]}
    if column.all_headers and column.kind is not None:
        pairs["type"] = column.kind.word
        if column.kind.form:
            pairs["format"] = column.kind.form
    if column.required and not column.is_made:
        pairs["required"] = True
    if column.part is not None:
        pairs["part"] = column.part
    if column.lowest is not None:
        pairs["lowest"] = column.lowest
    return pairs | (_formula(column.formula, column.store) if column.formula is not None else {})


def _formula(formula: Formula, store: bool) -> dict[str, Any]:
    by_one = {operation: key for key, operation in BY_ONE.items()}
    pairs: dict[str, Any] = {formula.operation: formula.operands}
    if formula.operation in by_one:
        pairs = {by_one[formula.operation]: formula.detail, "by": formula.operands[0]}
    if formula.operation == JOINED:
        pairs["between"] = formula.detail
    elif formula.operation not in (BAND, DATE_PART):
        pairs["places"] = formula.places
    return pairs | {"store": store}
