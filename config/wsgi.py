"""What gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings.desk")
application = get_wsgi_application()
