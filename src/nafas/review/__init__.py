"""Judgement of what was made: the proof of a master; and masters made and proven one after another.

Knows every room below; changes nothing it looks at.
"""

from nafas.review.produce import Production, produce
from nafas.review.proof import Proof, prove
from nafas.review.queue import Job, RenderQueue
from nafas.review.report import report

__all__ = ["Job", "Production", "Proof", "RenderQueue", "produce", "prove", "report"]
