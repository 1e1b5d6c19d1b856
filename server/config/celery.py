"""The Celery application: `celery -A config worker`."""

import os

from celery import Celery

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

app = Celery("fortimetra")
app.config_from_object("django.conf:settings", namespace="CELERY")
app.autodiscover_tasks()
