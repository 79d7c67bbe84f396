"""The core on the command line: ./kessa calc, run, methods and plan. No database, no network."""
