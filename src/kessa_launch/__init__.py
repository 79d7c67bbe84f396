"""The launcher behind ./kessa: standard library only.

    places       where the environment, the database and secrets live (never inside the clone)
    debian       what Debian's packages must bring
    environment  the project's own Python environment, built from the lock file
    postgres     a PostgreSQL server of our own on loopback
    chromium     Debian's browser for tests and pictures
    children     processes that never outlive the launcher
    commands/    one file a command

It imports nothing of the project, so it runs before anything is installed.
"""
