from django.apps import AppConfig


class GuitarsConfig(AppConfig):
    name = "apps.guitars"
