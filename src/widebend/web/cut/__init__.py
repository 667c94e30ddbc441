"""The Cut step: pieces in order, bars, templates, bend cards, the shop sheet, and the creeper card."""

from . import bench, bender, nesting, templates

BLUEPRINTS = (bench.room, bender.room, nesting.room, templates.room)
