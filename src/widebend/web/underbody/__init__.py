"""The Underbody step: what is there, measured, drawn, listed, brought in from files."""

from . import by_hand, camera, files, measuring, pointing, things, tools

BLUEPRINTS = (
    things.room,
    by_hand.room,
    measuring.room,
    files.room,
    camera.room,
    pointing.room,
    tools.room,
)
