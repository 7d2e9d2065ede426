"""Places that are the same as others."""
