"""The science of Kessa: pure Python, no web, no database, no I/O but its own data files.

    quantities    parameters, bases, units, Value
    chemistry     plain formulas of the wet part
    methods       the method document: model, validation, JSON Schema, shipped methods
    readings      one module a principle: forward model and the kit's convention
    influences    distributions, shared keys, the interval
    quality       blanks and repeats
    runs          fold(events) -> state, next step, flags, result
    judging       limits and verdicts
    records       the audit chain
    sheets        compiling a run into what a browser can play
    trends        what is usual at a place
    simulation    virtual samples and hands, from the forward models
    calculations  every calculation by name, for command line and pages
    cli           ./kessa calc, run and methods

Arrows point one way: cli, calculations, sheets, simulation -> runs -> quality, readings ->
influences, methods -> quantities -> errors. Nothing here imports Django.
"""

VERSION = "0.6.0"
