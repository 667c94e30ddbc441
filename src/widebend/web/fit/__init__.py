"""The Fit step: what is on the vehicle as it was found, and what follows for the rest."""

from . import card, edits, page, spreads

BLUEPRINTS = (page.room, edits.room, card.room, spreads.room)
