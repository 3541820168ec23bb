"""The JSON documents of designs: their tables, what stands against better ones, what is new, and the reasons."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hemplit.core.model.design import Grain
from hemplit.views.document.sheets import near, step

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.draft.redraft import Redrafted
    from hemplit.core.explain.anomaly import Anomaly
    from hemplit.core.explain.exceptions import Exceptional
    from hemplit.core.explain.reasons import Reasons
    from hemplit.core.explain.story import Story
    from hemplit.core.model.design import ColumnPlan, Design


def _column(column: ColumnPlan) -> dict[str, Any]:
    return {
        "name": column.name,
        "from": column.source,
        "roles": list(column.headers[1:]),
        "elsewhere": {sheet: list(headers) for sheet, headers in column.elsewhere},
        "to": column.to,
        "named_by": list(column.named_by),
        "alike": column.alike,
        "unmatched": column.unmatched,
        "along": list(column.along) if column.along else None,
        "ids": column.ids,
        "lowest": column.lowest,
        "part": column.part,
        "kind": column.kind.word if column.kind else None,
        "required": column.required,
        "store": column.store,
        "why": column.why,
    }


def design(given: Design) -> dict[str, Any]:
    """The tables of a design."""
    return {
        "sheets": [
            {"name": sheet.name, "file": sheet.file, "sheet": sheet.sheet, "of": sheet.of} for sheet in given.sheets
        ],
        "tables": [
            {
                "name": table.name,
                "sheet": table.sheet,
                "purpose": table.purpose,
                "each_row": table.grain is Grain.ROW,
                "list_of": table.of if table.grain is Grain.LIST else None,
                "some_of": table.of if table.grain is Grain.SUBSET else None,
                "key": list(table.key),
                "unique": [list(columns) for columns in table.unique],
                "rules": [
                    {
                        "rule": rule.kind,
                        "columns": list(rule.columns),
                        "values": list(rule.values),
                        "proposed": rule.proposed,
                        "why": rule.why,
                    }
                    for rule in table.rules
                ],
                "columns": [_column(column) for column in table.columns],
                "why": table.why,
            }
            for table in given.tables
        ],
        "trail": [
            {
                "form": one.form,
                "table": one.table,
                "out_of": one.out_of,
                "headers": list(one.headers),
                "why": one.why,
            }
            for one in given.trail
        ],
    }


def exceptions(found: Iterable[Exceptional]) -> list[dict[str, Any]]:
    """What keeps columns out of the tables of the things whose they would be."""
    return [
        {
            "sheet": one.sheet,
            "table": one.table,
            "column": one.column or None,
            "would_go_to": one.thing or None,
            **near(one.near),
        }
        for one in found
    ]


def redrafted(given: Redrafted) -> dict[str, Any]:
    """What is new for an edited design, and what a new draft would do otherwise."""
    return {
        "renamed": [{"drafted": name, "table": own} for name, own in given.renamed],
        "added": [{"table": table, **_column(column)} for table, column in given.added],
        "steps": [
            {
                "sheet": one.sheet,
                "before": None if one.kept is None else step(one.kept),
                "after": step(one.fresh),
                "proposed": not one.safe,
            }
            for one in given.steps
        ],
        "gone": list(given.gone),
        "otherwise": list(given.otherwise),
        "anew": None if given.anew is None else design(given.anew),
    }


def _anomaly(given: Anomaly | None) -> dict[str, Any] | None:
    if given is None:
        return None
    return {
        "header": given.header,
        "of": given.lead,
        "value": given.value,
        "cells": given.cells,
        "places": list(given.places),
    }


def story(given: Story) -> dict[str, Any]:
    """The way of a design, normal form by normal form."""
    return {
        "sheets": [
            {"title": flat.title, "rows": flat.rows, "columns": flat.columns, "said_again": flat.again}
            for flat in given.flats
        ],
        "chapters": [
            {
                "title": chapter.title,
                "before": list(chapter.before),
                "passages": [
                    {
                        "table": one.passage.table,
                        "out_of": one.passage.out_of,
                        "headers": list(one.passage.headers),
                        "why": one.passage.why,
                        "anomaly": _anomaly(one.anomaly),
                    }
                    for one in chapter.passings
                ],
            }
            for chapter in given.chapters
        ],
        "independent": list(given.independent),
        "computed": [
            {"column": header, "operation": one.operation, "of": list(one.operands)} for header, one in given.computed
        ],
        "taken": [{"columns": list(one.headers), "from": one.list_name, "by": one.by} for one in given.taken],
        "not_followed": list(given.not_followed),
        "more_not_followed": given.more_not_followed,
    }


def reasons(given: Reasons) -> dict[str, Any]:
    """The reasons for one table or column."""
    return {
        "place": given.place,
        "title": given.title,
        "evidence": list(given.evidence),
        "considered": list(given.considered),
        "anomaly": _anomaly(given.anomaly),
    }
