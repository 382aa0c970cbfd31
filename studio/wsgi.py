import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
application = get_wsgi_application()

# What the last stop cut short goes on.
from studio.clients.services import links  # noqa: E402
from studio.portraits.services import analysing, delivering, jobs, leftovers  # noqa: E402, F401
from studio.runs.services import running  # noqa: E402

leftovers.end_processes()
leftovers.sweep()
jobs.resume()
running.resume()
links.sweep()
