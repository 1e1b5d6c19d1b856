from django.apps import AppConfig


class DrillsConfig(AppConfig):
    name = "apps.drills"
