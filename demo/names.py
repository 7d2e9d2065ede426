"""What the pictures of Harbour Year are called on the command line. Nothing else is imported here, so
that `bin/demo` can read it before anything is installed.
"""

PICTURES = (
    "warehouse",
    "boatshed",
    "market",
    "quay",
    "jetty",
    "wall",
    "corner",
    "deck",
    "door-1",
    "door-2",
    "door-3",
)
