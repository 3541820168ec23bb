"""The cells of a sheet that stand in relations taken out of it: how its view brings them back under their headers.

A block that was stood up gives one row for each of its cells, found by its place; a list gives several, put one after
the other in their order.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core import kinds
from hemplit.core.model.relation import TEXT
from hemplit.core.model.tables import Gathered, ViewColumn
from hemplit.core.shape import lists, sideways
from hemplit.core.texts.listed import PLAIN
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.relation import Relation, Step


def gathered(design: Design, sheet: SheetPlan, relations: Mapping[str, Relation]) -> list[tuple[int, ViewColumn]]:
    """The columns of the sheet's view that come from other relations, each with its place in the sheet."""
    parts = {other.part: other for other in design.sheets if other.of == sheet.name}
    columns: list[tuple[int, ViewColumn]] = []
    for step in sheet.steps:
        if not step.proposed and step.act in (sideways.ACT, lists.ACT):
            part = parts[step.text("into")]
            columns += _columns(step, view_name(design, part), relations[part.name], part.leave_out)
    return columns


def _columns(step: Step, view: str, relation: Relation, left_out: tuple[str, ...]) -> list[tuple[int, ViewColumn]]:
    order = relation.columns[-1]
    if step.act == lists.ACT:
        if {step.text("column"), order.name} & set(left_out):
            return []
        found = Gathered(view, "", relation.of, order.name, between=PLAIN[step.text("by")])
        return [
            (column.position, ViewColumn(column.name, TEXT, gathered=replace(found, column=column.name)))
            for column in relation.columns[len(relation.of) : -1]
            if column.name not in left_out
        ]
    columns = []
    places = order.values.to_pylist()
    for block, label in zip(step.blocks, step.texts("labels"), strict=True):
        at = next((value for value in places if kinds.show(value, order.kind) == label), label)
        for place, name in enumerate(step.texts("names")):
            header = block[place]
            came = relation.by_name[name]
            if header and not {name, order.name} & set(left_out):
                cell = Gathered(view, name, relation.of, order.name, at=at)
                columns.append(
                    (came.places[step.texts("labels").index(label)], ViewColumn(header, came.kind, gathered=cell))
                )
    return columns


def view_name(design: Design, sheet: SheetPlan) -> str:
    """The name of the view that gives a sheet back; it stays clear of the tables' names."""
    name = f"{sheet.name}_sheet"
    while name in design.by_name:
        name += "_view"
    return name
