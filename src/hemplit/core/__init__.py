"""Values in, frozen values out: no file, database, terminal, clock or chance is touched in here."""
