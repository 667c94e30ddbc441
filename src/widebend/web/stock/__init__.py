"""The shop's shelf: what is there, taken, brought back, received, counted."""

from . import shelf

BLUEPRINTS = (shelf.room,)
