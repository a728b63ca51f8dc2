"""The ASGI application."""

import os
import warnings

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "true_convoy.server.settings")
# Files of the web part are streamed in the old way by whitenoise, which is well enough for files this small.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
application = get_asgi_application()
