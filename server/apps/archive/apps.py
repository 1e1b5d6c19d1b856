from django.apps import AppConfig


class ArchiveConfig(AppConfig):
    name = "apps.archive"

    def ready(self) -> None:
        from apps.archive import retention
        from apps.people.signals import day_passed

        day_passed.connect(retention.keep_to, dispatch_uid="retention")
