"""Virtual samples and hands, from the forward models: for practice, demo and proof.

bottle    what one bottle and lot share
hands     a person doing a drop count, as numbers
script    the same as the events of a run
"""
