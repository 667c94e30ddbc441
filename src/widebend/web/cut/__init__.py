"""The Cut step: pieces in order, bars, templates, bend cards, trims, the shop sheet, and the creeper card."""

from . import bench, bender, nesting, templates, trims

BLUEPRINTS = (bench.room, bender.room, nesting.room, templates.room, trims.room)
