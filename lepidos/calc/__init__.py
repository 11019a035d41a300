"""`lepidos calc`: every core model with its physical parameters as plain options.

Importing the three modules fills the group.
"""

from lepidos.calc import catch, cold, order
from lepidos.calc.shared import calc

__all__ = ["calc", "catch", "cold", "order"]
