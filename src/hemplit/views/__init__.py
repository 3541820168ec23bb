"""Values → something to look at, on a terminal or as a document for a program. Nothing is computed here."""
