"""The plain data classes at which the flow stops: grid, relation, findings, design, tables, proof."""
