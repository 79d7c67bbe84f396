"""The arithmetic of the wet part, as plain formulas.

titration    what titrant stands for
"""
