"""A data class of ours does what the standard library's does, whatever its fields and however it is called."""

from __future__ import annotations

import dataclasses as standard
from typing import TYPE_CHECKING, Any

from hypothesis import example, given
from hypothesis import strategies as st

from hemplit import dataclasses as ours

if TYPE_CHECKING:
    from collections.abc import Callable
    from types import ModuleType

NAMES = ["dock", "berth", "boats", "notes"]
#: What is said of a field, in the words of either module; those without a default have to come first.
SAID: dict[str, Callable[[ModuleType], dict[str, Any]]] = {
    "needed": lambda _: {},
    "passed over": lambda of: {"said": of.field(compare=False)},
    "plain": lambda _: {"said": 7},
    "plain, passed over": lambda of: {"said": of.field(default=7, compare=False)},
    "made anew": lambda of: {"said": of.field(default_factory=list)},
}
kinds = st.lists(st.sampled_from([*SAID]), max_size=len(NAMES)).map(lambda some: sorted(some, key=[*SAID].index))
values = st.one_of(st.integers(0, 2), st.just(()), st.builds(list))
calls = st.tuples(st.lists(values, max_size=3), st.dictionaries(st.sampled_from([*NAMES, "owner"]), values, max_size=3))


def _made(of: ModuleType, fields: list[str], *, frozen: bool, checks: bool) -> Any:
    """The class; one that ``checks`` counts its notes when it is made."""
    names = NAMES[: len(fields)]
    body: dict[str, Any] = {"__annotations__": dict.fromkeys(names, "object"), "__qualname__": "Quay"}
    for name, kind in zip(names, fields, strict=True):
        if "said" in (said := SAID[kind](of)):
            body[name] = said["said"]
    if checks:
        body["__post_init__"] = lambda one: vars(one).update(seen=len(vars(one)))
    return of.dataclass(type("Quay", (), body), frozen=frozen)


def _outcomes(of: ModuleType, made: Any, one: Any, other: Any) -> list[object]:
    """What comes of all that can be done with two objects that are made so, as text or as the error."""

    def tried(work: Callable[[], object]) -> object:
        try:
            return work()
        except (TypeError, AttributeError) as error:
            return type(error)

    first, second = (tried(lambda call=call: made(*call[0], **call[1])) for call in (one, other))
    if not isinstance(first, made):
        return [first]
    return [
        *map(repr, (first, second)),
        getattr(first, "seen", None),
        tried(lambda: first == second),
        tried(lambda: first == object()),
        tried(lambda: hash(first) == hash(second)),
        tried(lambda: setattr(first, "dock", 1)),
        tried(lambda: delattr(first, "dock")),
        *(
            repr(tried(lambda replace=replace: replace(first, **other[1])))
            for replace in (of.replace, standard.replace)
        ),
        repr(tried(lambda: standard.asdict(first))),
        tried(lambda: [(field.name, field.compare) for field in standard.fields(made)]),
        tried(lambda: repr(first)),
    ]


@example(["needed"], ([0], {}), ([], {"dock": 1}), False, False)  # whose only field is taken away, and set anew
@given(kinds, calls, calls, st.booleans(), st.booleans())
def test_ours_do_what_the_standard_ones_do(fields: list[str], one: Any, other: Any, frozen: bool, checks: bool) -> None:
    expected, found = (
        _outcomes(of, _made(of, fields, frozen=frozen, checks=checks), one, other) for of in (standard, ours)
    )
    assert found == expected
