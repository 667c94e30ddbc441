"""The hand-over: checks in their order, what was fitted with its torques, which tip is which bank, what comes off
first.
"""

from .checks import CHECKS, checks_for
from .made import Fitted, fitted

__all__ = ["CHECKS", "Fitted", "checks_for", "fitted"]
