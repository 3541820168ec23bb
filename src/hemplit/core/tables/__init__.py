"""Design × relations → tables, and how these give the sheets back."""
