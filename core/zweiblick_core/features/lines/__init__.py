"""Lines and edges that cross a fill."""
