"""Tasks that reach a limit, to be handed to another process."""

import os
import time

import numpy as np

from velamen.core.errors import BadInput


def slow(told, seconds, answer=""):
    told(0.5, "halfway")
    time.sleep(seconds)
    return answer or os.getpid()


def large(told, size):
    return len(np.empty(size, np.uint8))


def refused(told):
    raise BadInput("Not like that.")


def dies(told):
    os.kill(os.getpid(), 9)


def unitless(told):
    from io import StringIO

    import ezdxf

    from velamen.core.artwork.read import read_artwork

    drawing = ezdxf.new(units=0)
    drawing.modelspace().add_circle((20, 20), 9)
    text = StringIO()
    drawing.write(text)
    read_artwork(text.getvalue().encode(), "")
