"""Wide Bend: measures, routes, checks and cuts exhaust systems for the shop that builds them."""
