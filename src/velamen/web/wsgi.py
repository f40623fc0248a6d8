"""Entry point for the web server."""

import gc
import os
import resource
from threading import Timer

from django.conf import settings
from django.core.wsgi import get_wsgi_application
from django.template.loader import get_template

from velamen.core.constructions import constructions
from velamen.core.values.engine import rules
from velamen.web.work.outside import warm_up

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "velamen.web.settings")
WARM_AFTER = 2.0  # seconds: first the pages answer
TEMPLATES = settings.WEB / "templates"
application = get_wsgi_application()

# What takes much memory is for other processes; here it is refused in a sentence before the machine runs out.
MEMORY = 1_000_000_000  # bytes
resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, resource.getrlimit(resource.RLIMIT_DATA)[1]))


def _warm() -> None:
    """Reads what first pages would wait for: pages, constructions with their rules, and other processes."""
    constructions()
    rules()
    for page in sorted(TEMPLATES.rglob("*.html")):
        get_template(str(page.relative_to(TEMPLATES)))
    if settings.WORK_OUTSIDE:
        warm_up()


Timer(WARM_AFTER, _warm).start()

# What is loaded now stays; builds kept for later are many small objects, so rarer looks keep edits even.
gc.freeze()
gc.set_threshold(20_000, 20, 50)
