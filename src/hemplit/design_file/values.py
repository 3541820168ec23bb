"""The values that stand in a design file, each refused with its place where it is none."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping


def check_known(place: str, part: Mapping[str, Any], known: Iterable[str]) -> None:
    """Raises ``DesignError`` for a key that is no word of a design."""
    for key in part:
        if key not in known:
            where = f"{place}.{key}" if "." in place else key
            raise DesignError(where, f"'{key}' is no setting of a design", nearest(key, known))


def text(place: str, part: Mapping[str, Any], key: str) -> str | None:
    """A text; None where it is not said."""
    value = part.get(key)
    if value is not None and (not isinstance(value, str) or not value):
        raise DesignError(f"{place}.{key}", "this must be a text in quotes", f'write {key} = "…"')
    return value


def flag(place: str, part: Mapping[str, Any], key: str, default: bool) -> bool:
    """Yes or no."""
    value = part.get(key, default)
    if not isinstance(value, bool):
        raise DesignError(f"{place}.{key}", "this must be true or false", f"write {key} = true")
    return value


def texts(place: str, key: str, value: Any) -> tuple[str, ...]:
    """A list of texts; one text by itself is a list, too."""
    given = [value] if isinstance(value, str) else value
    if not isinstance(given, list) or not all(isinstance(one, str) for one in given):
        raise DesignError(f"{place}.{key}", "this must be a list of texts", f'write {key} = ["…", "…"]')
    return tuple(given)
