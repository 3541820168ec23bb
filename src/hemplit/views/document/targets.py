"""The JSON documents of targets: what they hold, what was added to them, and the proof."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hemplit.core.model.loads import News
    from hemplit.core.model.proof import Proof
    from hemplit.core.model.relation import Doubt
    from hemplit.core.model.tables import Peek, Tables
    from hemplit.core.tables.merge import Added, Conflict


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


def news(given: News | None) -> dict[str, Any] | None:
    """What is new since the load before; None if there was none."""
    if given is None:
        return None
    rows = [{"table": name, "before": before, "now": now} for name, (before, now) in given.rows.items()]
    return {"files": list(given.files), "rows": rows, "names": {name: list(new) for name, new in given.names.items()}}


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
