from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "apps.bench"
