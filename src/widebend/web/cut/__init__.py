"""The Cut step: pieces in order, bars, templates, bend cards, trims, printables, the shop sheet, the creeper card."""

from . import bench, bender, card, elsewhere, files, nesting, other_part, printing, substitute, templates, trims

_SHEETS = (bench, bender, card, elsewhere, files, nesting, other_part, printing, substitute, templates, trims)
BLUEPRINTS = tuple(sheet.room for sheet in _SHEETS)
