"""Bending on the shop's own bender: cards, springback, what is hit while it is bent, and a bender that is simulated.

Glossary: a *card* lists distance, rotation and angle for each bend; the *mark* is where on the straight tube a bend
starts; *set* is what the bender is told, *got* what comes out when it is let go; the *front* is the end that leaves the
machine first; *grip* is the straight that lies in the clamp.
"""

from .bent import Bent, bent_by, delete_photo, end_doubt, pose_difference
from .card import Card, Line, card_of, dies_for
from .clash import Clash, clashes
from .rows import Row, from_the_other_end, pieces_from_rows, right_handed, rows_from_pieces, start_and_rows_from_points
from .springback import Springback, creep_steps, learnt

__all__ = [
    "Bent",
    "Card",
    "Clash",
    "Line",
    "Row",
    "Springback",
    "bent_by",
    "card_of",
    "clashes",
    "creep_steps",
    "delete_photo",
    "dies_for",
    "end_doubt",
    "from_the_other_end",
    "learnt",
    "pieces_from_rows",
    "pose_difference",
    "right_handed",
    "rows_from_pieces",
    "start_and_rows_from_points",
]
