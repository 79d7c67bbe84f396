"""Test objects, made in one place.

runs     events of a run, as taps make them
people   programmes, members, points
"""
