from django.apps import AppConfig


class KeeperConfig(AppConfig):
    name = "apps.keeper"
