"""Steps on a terminal: what is done to a sheet, or only proposed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.style import CHOICE, DONE, QUIET, counted, plain, say

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import Console

    from hemplit.core.model.relation import Step

#: So many proposals are shown below a design: a person reads a few, and finds the others in it.
FEW = 3


def show_step(console: Console, step: Step) -> None:
    """What a step does, or would do if somebody chose it, and why."""
    said = dict(step.settings)
    what = next((f" in '{said[name]}'" for name in ("column",) if name in said), "")
    if "instead" in said:
        odd = ", ".join(f"'{text}'" for text in step.texts("of"))
        what = f" {odd} → '{said['instead']}'{what}"
    asked = "proposed: " if step.proposed else ""
    sign = CHOICE if step.proposed else DONE
    say(console, f"{asked}{plain(step.act)}{plain(what)}: [{QUIET}]{plain(step.why)}[/]", sign=sign, indent=2)


def show_proposals(console: Console, steps: Sequence[Step]) -> None:
    """The first of the steps that are only proposed, and what to do with them."""
    proposed = [step for step in steps if step.proposed]
    if not proposed:
        return
    console.print()
    for step in proposed[:FEW]:
        show_step(console, step)
    more = f"{counted(len(proposed) - FEW, 'more proposal')} in the design. " if len(proposed) > FEW else ""
    hint = f"{more}To have it done, remove the # before its line in the design, and draft again with --update"
    say(console, f"[{QUIET}]{hint}[/]", indent=6)
