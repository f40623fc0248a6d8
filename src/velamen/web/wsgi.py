"""Entry point for the web server."""

import gc
import os
import resource
from threading import Timer

from django.conf import settings
from django.core.wsgi import get_wsgi_application

from velamen.web.work.outside import warm_up

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "velamen.web.settings")
WARM_AFTER = 4.0  # seconds: first the pages answer
application = get_wsgi_application()

# What takes much memory is for other processes; here it is refused in a sentence before the machine runs out.
MEMORY = 1_000_000_000  # bytes
resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, resource.getrlimit(resource.RLIMIT_DATA)[1]))

if settings.WORK_OUTSIDE:
    Timer(WARM_AFTER, warm_up).start()

# What is loaded now stays; builds kept for later are many small objects, so rarer looks keep edits even.
gc.freeze()
gc.set_threshold(20_000, 20, 50)
