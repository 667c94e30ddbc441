"""Solids for a printer: tools to mark and hold by, and pieces as mock-ups that plug together. All watertight.

Glossary: a *sleeve* lies round a tube; a *socket* takes the *spigot* of the piece ahead; the *clock line* is a groove
along the piece's reference line.
"""

from .plugged import Play, mock_up
from .shop_tools import bend_saddle, square_ring, v_block

__all__ = ["Play", "bend_saddle", "mock_up", "square_ring", "v_block"]
