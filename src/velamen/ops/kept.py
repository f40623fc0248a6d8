"""A server that is kept up: begun again when it ends by itself, later and later where it will not stay."""

from __future__ import annotations

import subprocess
import time
from collections.abc import Callable

from velamen.ops import SetupError, say

FIRST, LONGEST = 1.0, 30.0  # seconds before it is begun again
STEADY = 60.0  # seconds after which it counts as up


class Kept:
    """A server and how it is begun. The first failure is the caller's; later ones are told, and it is tried again."""

    def __init__(self, name: str, begin: Callable[[], subprocess.Popen[bytes]]) -> None:
        self.name, self._begin = name, begin
        self.process = begin()
        self._since, self._pause, self._next = time.monotonic(), FIRST, 0.0

    def look(self) -> None:
        """Begins it again where it has ended and its pause is over."""
        now = time.monotonic()
        if self.process.poll() is None:
            if now - self._since > STEADY:
                self._pause = FIRST
            return
        if not self._next:
            say(f"The {self.name} ended by itself: it is begun again. Its log is in var/.")
            self._next = now + self._pause
        if now < self._next:
            return
        self._pause = min(2 * self._pause, LONGEST)
        try:
            self.process = self._begin()
        except (SetupError, OSError) as error:
            say(f"The {self.name} cannot be begun; tried again in {self._pause:.0f} s. {error}")
            self._next = time.monotonic() + self._pause
            return
        say(f"The {self.name} runs again.")
        self._since, self._next = time.monotonic(), 0.0
