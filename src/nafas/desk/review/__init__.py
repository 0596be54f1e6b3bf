"""The Review view: what was found in the session, what can be done about it, and what was looked at."""

from nafas.desk.review.view import ReviewView

__all__ = ["ReviewView"]
