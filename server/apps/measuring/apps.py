from django.apps import AppConfig


class MeasuringConfig(AppConfig):
    name = "apps.measuring"
