from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "apps.people"

    def ready(self) -> None:
        """Sign-ins are written down."""
        from apps.people import sign_in_log  # noqa: F401
