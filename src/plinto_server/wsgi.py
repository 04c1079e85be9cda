"""The server as a WSGI application."""

import os
import threading

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plinto_server.settings")
application = get_wsgi_application()

from plinto_core.sandbox.client import sandbox  # noqa: E402 - Django comes first

# The first file does not wait for the decoders' process to start.
threading.Thread(target=sandbox.start, daemon=True).start()
