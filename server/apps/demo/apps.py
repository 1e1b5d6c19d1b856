from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "apps.demo"
