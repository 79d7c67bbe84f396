"""Points of a programme as files that other programs read and write."""

from kessa_core.exchange.points import PlannedPoint, as_csv, as_geojson, read_points

__all__ = ["PlannedPoint", "as_csv", "as_geojson", "read_points"]
