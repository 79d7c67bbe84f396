"""Writing a method: a draft that may lack much, what it lacks, and a trial before it is published.

starts      what a person holds in the hand -> the document an answer begins with
fields      the parts of a document as fields of a form, from the same model that checks it
edits       changes to a draft by path; two people's changes brought together
problems    what is missing or wrong, in sentences, with the field that mends it
pasting     a leaflet's table, as it is copied
trial       simulated samples: how often its intervals hold, and what makes them wide
"""
