"""`lepidos calc`: every core model with its physical parameters as plain options.

Importing the modules fills the group.
"""

from lepidos.calc import catch, cold, order, plan
from lepidos.calc.shared import calc

__all__ = ["calc", "catch", "cold", "order", "plan"]
