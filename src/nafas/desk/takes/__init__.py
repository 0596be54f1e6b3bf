"""The Takes view: the call sheet at the left, the takes of a line in the middle, its fit and the book at the right."""

from nafas.desk.takes.shelf import Shelf
from nafas.desk.takes.view import TakesView

__all__ = ["Shelf", "TakesView"]
