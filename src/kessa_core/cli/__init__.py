"""The core on the command line: ./kessa calc, run and methods. No database, no network."""
