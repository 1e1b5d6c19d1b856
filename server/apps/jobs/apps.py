from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "apps.jobs"
