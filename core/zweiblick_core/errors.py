"""The one error that input can cause. Its text is one plain line, fit to be shown to a person."""


class Refused(ValueError):
    """The input cannot be used. `str(error)` says what is wrong with it, in one line."""
