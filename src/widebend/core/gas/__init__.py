"""What the gas meets on its way.

Glossary: a *loss* is said as the straight pipe of the same size that would cost the flow as much.
"""

from .flow_loss import as_straight_mm

__all__ = [
    "as_straight_mm",
]
