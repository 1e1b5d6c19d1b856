from django.apps import AppConfig


class DrillsConfig(AppConfig):
    name = "apps.drills"

    def ready(self) -> None:
        from apps.drills import services
        from apps.people.signals import studio_created

        studio_created.connect(services.add_built_in_drills, dispatch_uid="built-in drills")
