"""What a removal leaves of the thing."""
