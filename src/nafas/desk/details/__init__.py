"""Details of what is chosen: a form for the session and one for each kind of block."""

from nafas.desk.details.panel import Details

__all__ = ["Details"]
