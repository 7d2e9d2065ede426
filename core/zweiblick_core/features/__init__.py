"""Statistics of a fill and its surroundings, which several kinds rest on."""
