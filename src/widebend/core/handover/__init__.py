"""What is handed over: checks in their order, what was fitted with its torques, which tip is which bank, what comes off
first.
"""

from .checks import CHECKS, checks_for
from .made import TORQUE_NM, Fitted, fitted

__all__ = ["CHECKS", "TORQUE_NM", "Fitted", "checks_for", "fitted"]
