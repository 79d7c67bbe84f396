"""One module a principle: how a truth becomes what a person sees, and what the kit reports.

dropcount    drops of titrant until a colour stays
"""
