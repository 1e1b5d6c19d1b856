from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "apps.reports"
