"""The words of the design file, in one place for the writer and the reader."""

from hemplit.core.model.design import Grain
from hemplit.core.model.findings import BAND, DATE_PART

FORMAT = 2
SHEET_KEYS = ("file", "sheet", "of", "part", "unites", "by", "same", "steps", "leave_out")
#: How a table says how many rows its sheet gives it, where that is not one for each different key.
GRAINS = {Grain.ROW: "each_row", Grain.LIST: "list_of", Grain.SUBSET: "some_of"}
TABLE_KEYS = ("sheet", "purpose", *GRAINS.values(), "key", "unique", "rules", "columns")
FORMULAS = ("sum", "total", "difference", "product", "percentage", "joined")
#: What a column is that the header under ``by`` gives.
BY_ONE = {"range": BAND, "tells": DATE_PART, "plus": "constant"}
#: What is said only of a column that comes from a header itself.
WITH_FROM = ("type", "format", "store", *FORMULAS, "places", "between", *BY_ONE, "by")
COLUMN_KEYS = (
    "from",
    "to",
    "named_by",
    "alike",
    "unmatched",
    "unlike",
    "along",
    "gives",
    "ids",
    "lowest",
    "part",
    "required",
    *WITH_FROM,
)
#: What a saved question has, each as a person writes it behind the option of that name.
TALLY_KEYS = ("of", "by", "across", "where")
DRAFTED = "# drafted: "
