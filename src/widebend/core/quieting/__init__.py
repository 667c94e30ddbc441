"""Silencing fitted under the vehicle: branches that fit, resonators in a straight.

Glossary: a *mend* is what helps by ear; it *fits* where it makes no new trouble in a review.
"""

from .fitting_in import BranchFit, fitted_branch

__all__ = ["BranchFit", "fitted_branch"]
