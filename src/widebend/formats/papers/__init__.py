"""Papers of the shop: the shop sheet, cut and parts lists, a hole template, the cautions on them."""
