"""What stands along the boundary of a fill, and along its parallels."""
