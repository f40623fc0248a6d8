"""Entry point for the web server."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "velamen.web.settings")
application = get_wsgi_application()

# What is loaded now stays; builds kept for later are many small objects, so rarer looks keep edits even.
gc.freeze()
gc.set_threshold(20_000, 20, 50)
