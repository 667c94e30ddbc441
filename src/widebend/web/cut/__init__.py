"""The Cut step: pieces in order, bars, templates, the shop sheet, and the creeper card."""

from . import bench, nesting, templates

BLUEPRINTS = (bench.room, nesting.room, templates.room)
