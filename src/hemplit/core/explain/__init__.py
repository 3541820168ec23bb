"""Why a design is as it is, told from the findings."""
