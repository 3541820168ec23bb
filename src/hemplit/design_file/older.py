"""Words that designs of format 2 had at first, so that these can be read for one version more."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Mapping

#: What keys and values are called now, by what they were called.
PURPOSES = {"record": "main", "thing": "entity", "band": "range"}
COLUMN_KEYS = {"kind": "type", "form": "format", "band": "range"}
RULES = {"least": "min", "one_of": "allowed", "form": "pattern", "only_where": "filled_only_if"}
STEPS = {
    "take the cells": "read these cells",
    "set aside blank rows": "skip blank rows",
    "take names from the header": "read the header",
    "tidy blanks": "trim spaces",
    "set aside repeated headers": "skip repeated headers",
    "set aside lines that are too long": "skip lines that are too long",
    "set aside notes below": "skip notes",
    "set aside totals": "skip total rows",
    "set aside this row": "skip this row",
    "spread merged cells": "fill merged cells",
    "repeat the heads": "fill down",
    "take as blank": "treat as blank",
    "correct spelling": "correct typos",
    "correct by siblings": "correct from other rows",
    "fill gaps": "fill blanks",
    "set aside doubled rows": "skip duplicate rows",
    "take from the file name": "add column from file name",
    "stand up": "turn columns into rows",
    "take lists apart": "split lists into rows",
    "take into parts": "split into columns",
}


def modern(data: Mapping[str, Any]) -> dict[str, Any]:
    """What a design file says, in the words of today; what is no design at all stays as it is.

    >>> modern({"tables": {"boats": {"purpose": "thing", "columns": {"name": {"from": "Boat", "kind": "text"}}}}})
    {'tables': {'boats': {'purpose': 'entity', 'columns': {'name': {'from': 'Boat', 'type': 'text'}}}}}
    """
    made = dict(data)
    for section, renewed in (("sheets", _sheet), ("tables", _table)):
        if isinstance(data.get(section), dict):
            made[section] = {
                name: renewed(one) if isinstance(one, dict) else one for name, one in data[section].items()
            }
    return made


def _sheet(sheet: Mapping[str, Any]) -> dict[str, Any]:
    return _with_list(sheet, "steps", step)


def step(given: Any) -> Any:
    """A step of a sheet in the words of today."""
    made = _renewed(given, "act", "do", STEPS)
    if isinstance(made, dict) and made.get("by") == "stroke":
        made["by"] = "slash"
    return made


def _table(table: Mapping[str, Any]) -> dict[str, Any]:
    made = _with_list(table, "rules", lambda rule: _renewed(rule, "keep", "rule", RULES))
    if "purpose" in made:
        made["purpose"] = PURPOSES.get(str(made["purpose"]), made["purpose"])
    if isinstance(made.get("columns"), dict):
        made["columns"] = {
            name: {COLUMN_KEYS.get(key, key): value for key, value in one.items()} if isinstance(one, dict) else one
            for name, one in made["columns"].items()
        }
    return made


def _with_list(part: Mapping[str, Any], key: str, renewed: Any) -> dict[str, Any]:
    listed = part.get(key)
    return {**part, key: [renewed(one) for one in listed]} if isinstance(listed, list) else dict(part)


def _renewed(part: Any, old: str, new: str, words: Mapping[str, str]) -> Any:
    """A line with another key for what it does, and another word for it."""
    if not isinstance(part, dict):
        return part
    made = {new if key == old else key: value for key, value in part.items()}
    if isinstance(made.get(new), str):
        made[new] = words.get(made[new], made[new])
    return made
