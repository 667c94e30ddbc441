"""Bore, heat and sound: what the gas does in the design as it is drawn. Sheets of the Layout step."""

from . import bore, engine, heat

BLUEPRINTS = (bore.room, heat.room, engine.room)
