"""What was decided of one dependency that holds, with what speaks for and against it."""

from __future__ import annotations

from hemplit.core.texts.words import shown_together
from hemplit.dataclasses import dataclass

#: So many of the heaviest bits are said.
SAID = 3

Bits = tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Verdict:
    """What was decided of one candidate: the bits for and against by name, and whether it is believed.

    ``of_thing`` are those that its left side stands for a thing, ``of_pair`` those that its right side hangs on it;
    ``groups`` is how many different left sides there are, ``ruled_out`` what speaks against it where no bits count.
    """

    left: tuple[str, ...]
    right: str
    groups: int
    of_thing: Bits = ()
    of_pair: Bits = ()
    believed: bool = True
    ruled_out: str = ""

    @property
    def why_not(self) -> str:
        """Why it is not believed, in words; empty if it is."""
        shown = shown_together(self.left)
        if self.believed or self.ruled_out:
            return self.ruled_out
        if weight(self.of_thing) <= 0:
            return f"{shown} stands for no entity: {_said(self.of_thing)}"
        return f"'{self.right}' does not depend on it: {_said(self.of_pair)}"


def weight(bits: Bits) -> float:
    """All bits together."""
    return sum(value for _, value in bits)


def _said(bits: Bits) -> str:
    heaviest = [f"{name} {value:+.1f}" for name, value in bits[:SAID]]
    return f"{weight(bits):+.1f} bits ({', '.join(heaviest)})"
