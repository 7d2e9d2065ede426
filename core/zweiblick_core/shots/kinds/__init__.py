"""The kinds of flaw that only a shot has, one module each: `measure` of a region's courses."""
