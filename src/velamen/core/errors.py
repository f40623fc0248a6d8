"""The one error of the core that is meant for the person at the screen."""


class BadInput(ValueError):
    """Input that cannot be used. The message is one sentence: what, where, what to do."""


def within(what: str, value: float, low: float, high: float) -> float:
    """A figure that lies within its bounds. Raises BadInput with what it is and what it can be.

    >>> within("spacing of a fill", 0.4, 0.1, 10.0)
    0.4
    """
    if not low <= value <= high:
        raise BadInput(f"The {what} cannot be {value:g}: use {low:g} to {high:g}.")
    return value
