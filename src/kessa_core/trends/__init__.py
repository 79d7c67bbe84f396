"""What the history of a quantity at a place says.

series     earlier results as they are compared, one a day
quantiles  quantiles where some results are only known to lie below a figure
usual      the place's own normal, by season where there is enough
news       how the newest result stands to the history: since when, how often, a year ago
change     before and after something happened, and the difference to a comparison point
trend      whether it rises or falls over the years, by ranks and season for season
words      all of this in sentences
"""
