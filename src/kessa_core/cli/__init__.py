"""The core on the command line: calc, run, methods, limits and plan. No database, no network."""
