"""The Cut step: pieces in order, the shop sheet, and the creeper card."""

from . import bench, nesting

BLUEPRINTS = (bench.room, nesting.room)
