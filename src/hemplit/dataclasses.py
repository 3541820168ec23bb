"""Data classes that mean what the standard library's mean, made in a tenth of the time.

The standard library compiles six functions for each class, which takes a millisecond; a draft starts with 110 classes
and a load with 155, and that was an eighth of all their time. Here only ``__init__`` is compiled; the other functions
are shared. A type checker sees the standard library's own, and its functions take these classes as they take its own.
Left out is what no class of ours uses: order, slots, fields of a parent, fields that ``__init__`` does not take.
"""

from __future__ import annotations

from operator import attrgetter
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable
    from dataclasses import dataclass as dataclass
    from dataclasses import field as field
    from dataclasses import replace as replace
else:

    def dataclass(made: type | None = None, *, frozen: bool = False) -> Any:
        """Gives a class ``__init__``, ``__eq__``, ``__repr__``, and if it is frozen ``__hash__``, by its annotations.

        >>> @dataclass(frozen=True)
        ... class Berth:
        ...     dock: str
        ...     number: int = 1
        >>> Berth("North") == Berth("North", 1), replace(Berth("North"), number=7)
        (True, Berth(dock='North', number=7))
        """
        return _with_functions(made, frozen) if made else lambda made: _with_functions(made, frozen)

    def field(*, default: Any = ..., default_factory: Callable[[], Any] | None = None, compare: bool = True) -> Any:
        """A field whose default is made anew for each object, or in which two equal objects may differ."""
        return _Field(default, default_factory, compare)

    def replace(one: Any, /, **changes: Any) -> Any:
        """Another object of the class, with some fields changed."""
        kept = {name: getattr(one, name) for name in one.__match_args__ if name not in changes}
        return type(one)(**kept, **changes)


class _Field:
    """What is said of a field beyond its type."""

    def __init__(self, default: Any = ..., default_factory: Callable[[], Any] | None = None, compare: bool = True):
        self.default, self.default_factory, self.compare = default, default_factory, compare

    def in_standard_words(self) -> Any:
        import dataclasses

        if self.default_factory:
            return dataclasses.field(default_factory=self.default_factory, compare=self.compare)
        if self.default is ...:
            return dataclasses.field(compare=self.compare)
        return dataclasses.field(default=self.default, compare=self.compare)


class _Described:
    """The fields of a class as the standard library's own functions look for them; made when one of them asks."""

    def __init__(self, fields: dict[str, _Field]) -> None:
        self.fields = fields

    def __get__(self, one: object, made: Any) -> dict[str, Any]:
        import dataclasses

        said = {name: field.in_standard_words() for name, field in self.fields.items()}
        twin: Any = type(made.__name__, (), {"__annotations__": made.__annotations__, **said})
        made.__dataclass_fields__ = dataclasses.dataclass(twin).__dataclass_fields__
        return made.__dataclass_fields__


def _with_functions(made: Any, frozen: bool) -> Any:
    held = vars(made)
    fields = {name: _as_field(held.get(name, ...)) for name in made.__annotations__}
    for name, field in fields.items():
        if field.default is not ...:
            setattr(made, name, field.default)
        elif name in held:
            delattr(made, name)
    functions = {
        "__init__": _compiled(made, fields),
        "__eq__": _are_equal,
        "__hash__": _hash_of if frozen else None,
        "__repr__": held.get("__repr__", _shown),
        "__match_args__": (*fields,),
        "__compared__": _values_of([name for name, field in fields.items() if field.compare]),
        "__dataclass_fields__": _Described(fields),
    }
    if frozen:
        functions |= {"__setattr__": _refuse, "__delattr__": _refuse}
    for name, function in functions.items():
        setattr(made, name, function)
    return made


def _as_field(default: Any) -> _Field:
    return default if isinstance(default, _Field) else _Field(default)


def _compiled(made: Any, fields: dict[str, _Field]) -> Any:
    """``__init__``, which Python itself then checks calls by."""
    taken, kept = ["self"], []
    for name, field in fields.items():
        taken.append(name if field.default is ... and not field.default_factory else f"{name}=fields['{name}'].default")
        made_anew = f"fields['{name}'].default_factory() if {name} is ... else "
        kept.append(f"{name}={made_anew if field.default_factory else ''}{name}")
    lines = [f"def __init__({', '.join(taken)}):", f" self.__dict__.update({', '.join(kept)})"]
    if hasattr(made, "__post_init__"):
        lines.append(" self.__post_init__()")
    space: dict[str, Any] = {"fields": fields}
    exec("\n".join(lines), space)
    space["__init__"].__qualname__ = f"{made.__qualname__}.__init__"
    return space["__init__"]


def _values_of(names: list[str]) -> Callable[[Any], tuple[Any, ...]]:
    if len(names) > 1:
        return attrgetter(*names)
    return lambda one: tuple(getattr(one, name) for name in names)


def _are_equal(one: Any, other: Any) -> Any:
    if type(other) is not type(one):
        return NotImplemented
    compared = type(one).__compared__
    return compared(one) == compared(other)


def _hash_of(one: Any) -> int:
    return hash(type(one).__compared__(one))


def _shown(one: Any) -> str:
    return f"{type(one).__qualname__}({', '.join(f'{name}={getattr(one, name)!r}' for name in one.__match_args__)})"


def _refuse(one: object, name: str, value: object = None) -> None:
    from dataclasses import FrozenInstanceError

    raise FrozenInstanceError(f"cannot change {name!r} of a frozen {type(one).__name__}")
