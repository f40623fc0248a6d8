"""The one error of the core that is meant for the person at the screen."""


class BadInput(ValueError):
    """Input that cannot be used. The message is one sentence: what, where, what to do."""
