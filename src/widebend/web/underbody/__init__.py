"""The Underbody step: what is there, measured, drawn, listed, brought in from files."""

from . import files, measuring, things, tools

BLUEPRINTS = (
    things.room,
    measuring.room,
    files.room,
    tools.room,
)
