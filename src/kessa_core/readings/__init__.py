"""One module a principle: how a truth becomes what a person sees, and what the kit reports.

seen        what a person saw, raw
scale       a scale: whole numbers in its own step, how they are typed and said
engine      one likelihood for every scale, and the interval read backwards
reader      what every principle answers
registry    every principle by its name

dropcount   drops of titrant until a colour stays      tablets     tablets one at a time
counting    the forward model of both                  dispensed   burette, titrator, syringe
shades      comparators and the pads of strips         height      a strip read as a height
photometer  photometers                                meter       meters, sensors
sight       a disc on a rope, a tube                   printed     refractometer, thermometer
graded      what is seen, as a grade                   elsewhere   a result from elsewhere
displays    what the numeric ones share
"""
