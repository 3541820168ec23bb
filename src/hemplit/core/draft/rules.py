"""The rules that the data keep without exception, offered with each table; only overwhelming ones are enforced."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.design import Purpose, Rule, RuleKind
from hemplit.core.texts.words import is_measure, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.design import TablePlan
    from hemplit.core.model.findings import Findings

#: With so many rows a condition without exception is no accident.
STRONG = 100


def with_rules(tables: Sequence[TablePlan], findings: Findings) -> list[TablePlan]:
    """The tables of a sheet, each with the rules for columns that it stores itself."""
    listed = {table.name: str(table.by_name["name"].source) for table in tables if table.purpose is Purpose.LOOKUP}
    made = []
    for table in tables:
        names = {str(column.source): column.name for column in table.stored if column.source and column.to is None}
        chosen = {
            listed[column.to]: column.name for column in table.stored if column.to in listed and column.source is None
        }
        is_range = table.purpose is Purpose.RANGE
        made.append(table if is_range else replace(table, rules=tuple(_rules(names, chosen, findings))))
    return made


def _rules(names: dict[str, str], chosen: dict[str, str], findings: Findings) -> list[Rule]:
    """The rules for columns by header; ``chosen`` are those whose value is chosen from a lookup."""
    rules = []
    conditions = chosen | names
    for one in findings.filled_where:
        if one.name in names and one.by in conditions:
            listed = ", ".join(f"'{value}'" for value in one.values)
            why = f"filled in {one.rows:,} rows, exactly where '{one.by}' is {listed}"
            # Where it is filled for most of the kinds it may well be for the next that comes.
            most = 2 * len(one.values) > findings.by_name[one.by].distinct
            weak = findings.row_count < STRONG or most
            rules.append(Rule(RuleKind.FILLED_ONLY_IF, (names[one.name], conditions[one.by]), one.values, weak, why))
    for one_name, other in findings.one_filled:
        if one_name in names and other in names:
            why = f"one of the two is filled in each of {findings.row_count:,} rows, and never both"
            weak = findings.row_count < STRONG
            rules.append(Rule(RuleKind.ONE_FILLED, (names[one_name], names[other]), (), weak, why))
    for header, values in findings.closed_lists:
        if header in names:
            rules.append(Rule(RuleKind.ALLOWED, (names[header],), values, True, f"only {len(values)} values occur"))
    for header, form in findings.code_forms:
        if header in names:
            why = f"all {findings.by_name[header].distinct:,} look like this (A letter, 9 digit)"
            rules.append(Rule(RuleKind.PATTERN, (names[header],), (form,), True, why))
    for header, name in names.items():
        facts = findings.by_name[header]
        measured = is_measure(words(header))
        if facts.lowest is not None and facts.lowest >= 0 and measured:
            why = f"smallest now: {facts.lowest:g}"
            rules.append(Rule(RuleKind.MIN, (name,), ("0",), True, why))
    return rules
