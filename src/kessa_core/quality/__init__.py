"""Can the number be trusted: blanks and repeats.

blank      passes or fails, by the method's allowance
repeats    which determinations make the reported value
"""
