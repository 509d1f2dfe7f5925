"""The web process. It never loads the kernel: all kernel work runs in children."""

import os

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "bench.settings")

from django.core.wsgi import get_wsgi_application

application = get_wsgi_application()

from bench.scans import warm_newest  # noqa: E402 -- needs the settings first
from contour.job.work.runner import rest_when_idle  # noqa: E402

warm_newest()
# Previews and pictures run in children of this process; while nobody works on a job, their fork server need not stand by.
rest_when_idle(600.0)
