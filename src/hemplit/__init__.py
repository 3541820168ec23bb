"""Hemplit turns flat spreadsheet sheets into normalised relational tables and proves that nothing was lost.

The data flows one way: grid → relation → findings → design → tables → target → proof. ``hemplit.flow`` joins the parts
and is the Python interface; the command line in ``hemplit.cli`` only calls it.
"""

__version__ = "0.1.0"
