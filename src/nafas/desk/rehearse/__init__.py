"""The Rehearse view: the page come alive, marks while it runs, breathing along, and how it felt."""

from nafas.desk.rehearse.view import RehearseView

__all__ = ["RehearseView"]
