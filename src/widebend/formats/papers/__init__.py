"""What the shop prints and hands over: the shop sheet, cut and parts lists, a hole template, the cautions on them."""
