"""The score: layout (where), painter (how it looks), view (what the person does)."""

from nafas.desk.score.view import ScoreView
from nafas.score.selection import Chosen

__all__ = ["Chosen", "ScoreView"]
