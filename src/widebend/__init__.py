"""Wide Bend: measures, routes, checks and cuts exhaust systems for the shop that builds them."""

__version__ = "0.13.0"
