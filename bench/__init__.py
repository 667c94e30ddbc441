"""Printed comparisons: ratios measured in one run. Not tests; ./widebend bench runs them."""
