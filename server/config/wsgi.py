"""What gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
django = get_wsgi_application()

from config.limits import paced  # noqa: E402  (needs the settings)

application = paced(django)
