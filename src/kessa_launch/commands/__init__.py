"""One file a command; each has run(arguments) -> exit status."""
