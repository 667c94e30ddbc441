"""The Cut step: pieces in order, bars, templates, bend cards, trims, printables,
the shop sheet, and the creeper card."""

from . import bench, bender, elsewhere, files, nesting, printing, templates, trims

BLUEPRINTS = (
    bench.room,
    bender.room,
    elsewhere.room,
    files.room,
    nesting.room,
    printing.room,
    templates.room,
    trims.room,
)
