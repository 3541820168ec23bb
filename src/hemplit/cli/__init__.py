"""The command line: the parser, and one module per command. It calls ``hemplit.flow`` and shows what comes back."""
