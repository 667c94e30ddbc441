"""True-size templates: what is printed, cut out and laid on metal.

Glossary: a *wrap* goes round a tube and its edge is the cut; *fingers* are strips that lie along the lines of a bend,
where no sheet would; an *outline* is laid flat on plate. A *roll* is the angle round the tube from its reference line,
clockwise looking toward the engine end.
"""

from .darts import dart_wrap
from .outlines import end_plate, flange, gasket, hole, oval, shell
from .paper import Paper, Stroke, Template, Word
from .wraps import FIRST_TOUCH, hole_wrap, mitre_wrap, saddle_wrap, slice_wrap, x_fingers, y_fingers

__all__ = [
    "FIRST_TOUCH",
    "Paper",
    "Stroke",
    "Template",
    "Word",
    "dart_wrap",
    "end_plate",
    "flange",
    "gasket",
    "hole",
    "hole_wrap",
    "mitre_wrap",
    "oval",
    "saddle_wrap",
    "shell",
    "slice_wrap",
    "x_fingers",
    "y_fingers",
]
