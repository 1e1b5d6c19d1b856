from django.apps import AppConfig


class PlansConfig(AppConfig):
    name = "apps.plans"

    def ready(self) -> None:
        from apps.plans import ladders
        from apps.takes.signals import settled

        settled.connect(ladders.after_take, dispatch_uid="ladders")
