"""The kinds of files that are read, by the ends of their names. To add one, add it here, and its reader in READERS."""

TEXTS = (".csv", ".tsv", ".txt", ".tab")
WORKBOOKS = (".xlsx", ".xlsm", ".ods")
OLD_WORKBOOKS = (".xls",)
PARQUET = (".parquet",)
#: A folder of sheets may hold what they were loaded into, so a database is only read if somebody names it.
DATABASES = (".sqlite", ".sqlite3", ".db")

#: The module of this room that reads files so called. Each is imported when there is one, for most commands see one
#: kind, and those of all take a fiftieth of the time of a draft.
READERS = {
    **dict.fromkeys(TEXTS, "delimited"),
    **dict.fromkeys(WORKBOOKS, "workbook"),
    **dict.fromkeys(OLD_WORKBOOKS, "old_workbook"),
    **dict.fromkeys(PARQUET, "parquet"),
}
