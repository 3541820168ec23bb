"""The JSON documents; docs/json.md describes them. Keys are only ever added."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hemplit.core.model.design import Grain

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hemplit.core.draft.redraft import Redrafted
    from hemplit.core.draft.sheets import Together
    from hemplit.core.explain.anomaly import Anomaly
    from hemplit.core.explain.reasons import Reasons
    from hemplit.core.explain.story import Story
    from hemplit.core.model.design import ColumnPlan, Design
    from hemplit.core.model.findings import Breach, Computed, Evidence, Findings, Link
    from hemplit.core.model.loads import News
    from hemplit.core.model.proof import Change, Proof
    from hemplit.core.model.relation import Doubt, Relation, Step
    from hemplit.core.model.tables import Peek, Tables
    from hemplit.core.tables.merge import Added, Conflict


def _sheet(found: Findings) -> dict[str, Any]:
    return {
        "file": found.source.path,
        "sheet": found.source.sheet,
        "rows": found.row_count,
        "columns": len(found.columns),
    }


def _computed(computed: Computed) -> dict[str, Any]:
    formula = computed.formula
    return {
        "column": computed.name,
        "operation": formula.operation,
        "of": list(formula.operands),
        "places": formula.places,
        "detail": formula.detail,
        "rows": computed.rows,
        "breaking": computed.breaking,
        "breaches": [_breach(one) for one in computed.breaches],
    }


def _breach(breach: Breach) -> dict[str, Any]:
    return {"place": breach.place, "value": breach.value, "agreed": breach.agreed, "slip": breach.twin}


def look(found: Findings) -> dict[str, Any]:
    """What one sheet holds."""
    return {
        **_sheet(found),
        "taken_as": found.source.taken_as,
        "steps": [_step(step) for step in found.steps],
        "column_facts": [
            {
                "name": facts.name,
                "kind": facts.kind.word,
                "form": facts.kind.form,
                "filled": facts.filled,
                "blanks": facts.blanks,
                "distinct": facts.distinct,
                "longest": facts.longest,
                "examples": list(facts.examples),
            }
            for facts in found.columns
        ],
        "keys": [list(key) for key in found.keys],
        "computed": [_computed(one) for one in found.computed],
        "trouble": [
            {"what": one.what, "count": one.count, "places": list(one.places), "hint": one.hint}
            for one in found.trouble
        ],
    }


def _change(given: Change) -> dict[str, Any]:
    return {
        "file": given.file,
        "row": given.row,
        "column": given.column,
        "before": given.before,
        "after": given.after,
        "step": given.step,
    }


def changes(done: Iterable[Change], proposed: Iterable[tuple[str, list[Change]]]) -> dict[str, Any]:
    """Every cell of a sheet that the steps change, and what each proposal would change."""
    return {
        "changes": [_change(one) for one in done],
        "proposals": [{"step": step, "cells": [_change(one) for one in cells]} for step, cells in proposed],
    }


def _evidence(given: Evidence | None) -> dict[str, Any]:
    if given is None:
        return {"groups": None, "repeats": None, "pairs": None, "chance": None}
    return {"groups": given.groups, "repeats": given.repeats, "pairs": given.pairs, "chance": round(given.chance, 2)}


def stream_head(relation: Relation) -> dict[str, Any]:
    """The beginning of the dependencies of a sheet that are written as they are found."""
    return {
        "file": relation.source.path,
        "sheet": relation.source.sheet,
        "rows": relation.row_count,
        "columns": len(relation.columns),
        "depth": "all",
    }


def dependencies(found: Findings) -> dict[str, Any]:
    """Which columns of a sheet decide which."""
    return {
        **_sheet(found),
        "depth": found.depth if found.depth is not None else "all",
        "unfinished": found.unfinished,
        "dependencies": [
            {"left": list(one.left), "right": one.right, **_evidence(one.evidence)} for one in found.dependencies
        ],
        "keys": [list(key) for key in found.keys],
        "near": [
            {
                "left": list(one.left),
                "right": one.right,
                "rows": one.rows,
                "share": round(one.share, 6),
                "slips": one.twins,
                "breaches": [_breach(breach) for breach in one.breaches],
            }
            for one in found.near
        ],
        "multivalued": [
            {
                "left": list(one.left),
                "parts": [list(part) for part in one.parts],
                "groups": one.groups,
                "separable": one.separable,
            }
            for one in found.multivalued
        ],
        "bands": [
            {"column": one.name, "by": one.by, "limits": [list(limit) for limit in one.limits], "values": one.values}
            for one in found.bands
        ],
        "computed": [_computed(one) for one in found.computed],
    }


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


def together(given: Together) -> dict[str, Any]:
    """How sheets hang together: which columns take their values from others, and which sheets tell of the same."""
    same = [
        {"sheets": list(one.plan.unites), "columns": [list(group) for group in one.plan.same], "why": list(one.why)}
        for one in given.unions
    ]
    return {"links": [link(one) for one in given.links], "same": same}


def link(one: Link) -> dict[str, Any]:
    """Columns of a sheet that take their values from another."""
    return {
        "sheet": one.child,
        "columns": list(one.headers),
        "to": one.parent,
        "key": list(one.key),
        "alike": one.alike,
        "different": one.different,
        "known": one.known,
        "rows": one.rows,
        "matched": one.matched,
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


def topped(added: Mapping[str, Added], conflicts: Sequence[tuple[str, Conflict]], given: Proof) -> dict[str, Any]:
    """What a topup added to each table, and what contradicts."""
    return {
        "tables": [
            {"name": name, "new": one.new, "rows": one.rows, "names": list(one.names), "changed": one.changed}
            for name, one in added.items()
        ],
        "conflicts": [
            {
                "sheet": title,
                "table": one.table,
                "row": list(one.names),
                "column": one.column,
                "held": one.held,
                "now": one.further,
            }
            for title, one in conflicts
        ],
        **proof(given),
    }


def proof(given: Proof) -> dict[str, Any]:
    """What was compared, and where every cell went."""
    return {
        "proven": given.holds,
        "on_purpose": list(given.on_purpose),
        "checks": [
            {
                "what": check.what,
                "compared": check.compared,
                "unit": check.unit,
                "different": check.different,
                "differences": [
                    {"place": one.place, "expected": one.expected, "found": one.found} for one in check.differences
                ],
            }
            for check in given.checks
        ],
        "ledgers": [
            {
                "sheet": ledger.sheet,
                "cells": ledger.cells,
                "stored": ledger.stored,
                "calculated": ledger.calculated,
                "changed": ledger.changed,
                "changes": [{"reason": part.reason, "cells": part.cells} for part in ledger.changes],
                "left_out": [{"reason": part.reason, "cells": part.cells} for part in ledger.left_out],
                "rows_left_out": [
                    {"place": row.place, "step": row.step, "cells": list(row.texts)} for row in ledger.rows
                ],
                "unaccounted": ledger.unaccounted,
                "adds_up": ledger.adds_up,
            }
            for ledger in given.ledgers
        ],
    }


def told(given: Iterable[tuple[str, Doubt]]) -> list[dict[str, Any]]:
    """What the steps found otherwise than when they were drafted."""
    return [
        {
            "sheet": sheet,
            "what": one.what,
            "count": one.count,
            "places": list(one.places),
            "hint": one.hint,
            "settled": one.settled,
        }
        for sheet, one in given
    ]


def loaded(tables: Tables, given: Proof) -> dict[str, Any]:
    """What a target holds now, and the proof."""
    return {
        "tables": [
            {
                "name": table.name,
                "purpose": table.purpose,
                "rows": table.row_count,
                "key": list(table.key),
                "unique": [list(columns) for columns in table.unique],
                "columns": [column.name for column in table.columns],
                "references": [
                    {
                        "columns": list(reference.columns),
                        "table": reference.table,
                        "table_columns": list(reference.table_columns),
                    }
                    for reference in table.references
                ],
            }
            for table in tables.tables
        ],
        "views": [{"name": view.name, "sheet": view.sheet} for view in tables.views],
        "named_views": [{"name": view.name, "table": view.base} for view in tables.named],
        "tallies": [saved.name for saved in tables.tallies],
        **proof(given),
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


def _step(step: Step) -> dict[str, Any]:
    return {"do": step.act, **dict(step.settings), "why": step.why}


def news(given: News | None) -> dict[str, Any] | None:
    """What is new since the load before; None if there was none."""
    if given is None:
        return None
    rows = [{"table": name, "before": before, "now": now} for name, (before, now) in given.rows.items()]
    return {"files": list(given.files), "rows": rows, "names": {name: list(new) for name, new in given.names.items()}}


def redrafted(given: Redrafted) -> dict[str, Any]:
    """What is new for an edited design, and what a new draft would do otherwise."""
    return {
        "renamed": [{"drafted": name, "table": own} for name, own in given.renamed],
        "added": [{"table": table, **_column(column)} for table, column in given.added],
        "steps": [
            {
                "sheet": one.sheet,
                "before": None if one.kept is None else _step(one.kept),
                "after": _step(one.fresh),
                "proposed": not one.safe,
            }
            for one in given.steps
        ],
        "gone": list(given.gone),
        "otherwise": list(given.otherwise),
        "anew": None if given.anew is None else design(given.anew),
    }


def held(some: Sequence[Peek]) -> dict[str, Any]:
    """What a database holds that Hemplit made."""
    return {
        "held": [
            {
                "name": one.name,
                "kind": one.kind,
                "rows": one.rows,
                "columns": list(one.columns),
                "first": [list(row) for row in one.first],
                "refers_to": list(one.refers_to),
            }
            for one in some
        ]
    }
