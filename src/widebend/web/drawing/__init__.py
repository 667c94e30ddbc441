"""Pictures: what the core computed, projected and laid out for SVG. Pixels here, never a rule of the trade."""
