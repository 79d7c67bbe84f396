"""Finding a method among many."""

from kessa_core.finding.facts import MethodFacts, StageFacts, facts_of
from kessa_core.finding.wanted import WATERS, Wanted, fits

__all__ = ["WATERS", "MethodFacts", "StageFacts", "Wanted", "facts_of", "fits"]
