"""What the pictures of Harbour Year are called on the command line, and its people's password. Nothing
else is imported here, so that `bin/demo` can read it before anything is installed.
"""

#: The demo's people share one password; it guards made-up pictures on loopback.
PASSWORD = "quellmuende"

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
