"""What a place's history says.

usual    the place's own normal
"""
