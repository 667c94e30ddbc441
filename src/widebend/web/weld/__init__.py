"""The Weld step: how each joint is welded and in which order; the card by which the finished system goes in."""

from . import page, refit

BLUEPRINTS = (page.room, refit.room)
