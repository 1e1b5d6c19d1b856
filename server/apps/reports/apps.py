from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "apps.reports"

    def ready(self) -> None:
        from apps.people.signals import day_passed
        from apps.reports import retention

        day_passed.connect(retention.keep_to, dispatch_uid="retention")
