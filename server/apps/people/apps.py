from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "apps.people"

    def ready(self) -> None:
        """Sign-ins are written down, and forgotten again in time."""
        from apps.people import audit, sign_in_log  # noqa: F401
        from apps.people.signals import day_passed

        day_passed.connect(audit.forget_old, dispatch_uid="activity log")
