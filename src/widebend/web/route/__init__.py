"""The Route step: strips, line-up and findings, ways found and taken."""

from . import bench, finding

BLUEPRINTS = (
    bench.room,
    finding.room,
)
