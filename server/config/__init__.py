"""Settings, routes and the worker's entry of the server."""

from config.celery import app as celery_app

__all__ = ["celery_app"]
