"""Plan: start from a purpose and a length, see the arc, and fit the session to its length."""

from nafas.desk.plan.fit_panel import FitPanel
from nafas.desk.plan.view import PlanView

__all__ = ["FitPanel", "PlanView"]
