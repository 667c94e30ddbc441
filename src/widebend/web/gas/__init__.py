"""Bore, heat and sound: what the gas does in the design as it is drawn. Sheets of the Layout step."""

from . import bore, engine, heat, sound, sound_edits

BLUEPRINTS = (bore.room, heat.room, sound.room, sound_edits.room, engine.room)
