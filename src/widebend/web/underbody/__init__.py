"""The Underbody step: what is there, measured, drawn, listed, brought in from files."""

from . import by_hand, camera, files, measuring, pointing, sheets, shots, things, tools

BLUEPRINTS = (
    things.room,
    by_hand.room,
    measuring.room,
    files.room,
    camera.room,
    shots.room,
    sheets.room,
    pointing.room,
    tools.room,
)
