"""The JSON documents; docs/json.md describes them. Keys are only ever added."""

from hemplit.views.document.designs import design, exceptions, reasons, redrafted, story
from hemplit.views.document.sheets import changes, dependencies, look, stream_head, together
from hemplit.views.document.targets import held, loaded, news, proof, told, topped

__all__ = [
    "changes",
    "dependencies",
    "design",
    "exceptions",
    "held",
    "loaded",
    "look",
    "news",
    "proof",
    "reasons",
    "redrafted",
    "story",
    "stream_head",
    "together",
    "told",
    "topped",
]
