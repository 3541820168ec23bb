"""Tables and views as SQL: what all databases share, and one ``Dialect`` for all in which each differs."""
