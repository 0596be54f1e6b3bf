"""The score: layout (where), painter (how it looks), view (what the person does)."""

from nafas.desk.score.painter import Chosen
from nafas.desk.score.view import ScoreView

__all__ = ["Chosen", "ScoreView"]
