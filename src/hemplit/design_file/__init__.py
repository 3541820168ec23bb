"""Design ↔ TOML: the text that a person reads, edits and keeps in version control."""
