"""Judgement of what was made: the proof of a master.

Knows every room below; changes nothing it looks at.
"""

from nafas.review.produce import Production, produce
from nafas.review.proof import Proof, prove
from nafas.review.report import report

__all__ = ["Production", "Proof", "produce", "prove", "report"]
