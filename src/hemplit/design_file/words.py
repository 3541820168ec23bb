"""The words of the design file, in one place for the writer and the reader."""

FORMAT = 1
SHEET_KEYS = ("file", "sheet", "of", "part", "steps", "leave_out")
TABLE_KEYS = ("sheet", "purpose", "each_row", "key", "unique", "columns")
FORMULAS = ("sum", "difference", "product")
COLUMN_KEYS = ("from", "to", "ids", "kind", "form", "required", *FORMULAS, "places", "band", "by", "store", "lowest")
DRAFTED = "# drafted: "
