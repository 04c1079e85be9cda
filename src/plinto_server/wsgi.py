"""The server as a WSGI application."""

import os
import sys
import threading

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plinto_server.settings")
application = get_wsgi_application()

from plinto_core.sandbox.client import sandbox  # noqa: E402 - Django comes first

# A picture takes the interpreter back a hundred times, after each of its kernels. From figures and other pictures it
# gets it after this, not after Python's own 5 ms.
sys.setswitchinterval(0.0005)

# The first file does not wait for the decoders' process to start.
threading.Thread(target=sandbox.start, daemon=True).start()
