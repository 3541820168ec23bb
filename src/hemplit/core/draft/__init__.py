"""Findings → design: decides, by the rules of the modules beside this one, and writes down why."""

from __future__ import annotations

from hemplit.core.draft.sheets import draft, together

__all__ = ["draft", "together"]
