"""The method document: a kit's procedure as data.

document      the model (format kessa-method/2)
stage         one stage: what it measures, how it is read, its steps and rules
parts         the other parts: steps, waits, blank, repeats, waste
load          text -> model, with errors that name line, path and remedy
schema        the published JSON Schema, generated from the model
catalogue     the methods that ship with Kessa
"""

from kessa_core.methods.catalogue import shipped, shipped_ids
from kessa_core.methods.document import Method
from kessa_core.methods.load import InvalidDocument, load

__all__ = ["InvalidDocument", "Method", "load", "shipped", "shipped_ids"]
