"""The JSON documents of sheets: what is in them, what determines what, and how they hang together."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.draft.sheets import Together
    from hemplit.core.model.findings import Breach, Computed, Evidence, Findings, Link, Near
    from hemplit.core.model.proof import Change
    from hemplit.core.model.relation import Relation, Step


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
        "steps": [step(one) for one in found.steps],
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


def step(one: Step) -> dict[str, Any]:
    """What is done to a sheet, and why."""
    return {"do": one.act, **dict(one.settings), "why": one.why}


def changes(done: Iterable[Change], proposed: Iterable[tuple[str, list[Change]]]) -> dict[str, Any]:
    """Every cell of a sheet that the steps change, and what each proposal would change."""
    return {
        "changes": [_change(one) for one in done],
        "proposals": [{"step": step, "cells": [_change(one) for one in cells]} for step, cells in proposed],
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
        "near": [near(one) for one in found.near],
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


def near(one: Near) -> dict[str, Any]:
    """A dependency that holds but for a few rows."""
    return {
        "left": list(one.left),
        "right": one.right,
        "rows": one.rows,
        "share": round(one.share, 6),
        "slips": one.twins,
        "breaches": [_breach(breach) for breach in one.breaches],
    }


def together(given: Together) -> dict[str, Any]:
    """How sheets hang together: which columns take their values from others, and which sheets tell of the same."""
    same = [
        {"sheets": list(one.plan.unites), "columns": [list(group) for group in one.plan.same], "why": list(one.why)}
        for one in given.unions
    ]
    return {"links": [_link(one) for one in given.links], "same": same}


def _link(one: Link) -> dict[str, Any]:
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
