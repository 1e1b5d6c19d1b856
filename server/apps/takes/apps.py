from django.apps import AppConfig


class TakesConfig(AppConfig):
    name = "apps.takes"
