from django.apps import AppConfig


class PlansConfig(AppConfig):
    name = "apps.plans"

    def ready(self) -> None:
        from apps.people.signals import handed_over, left
        from apps.plans import ladders, services
        from apps.takes.signals import settled

        settled.connect(ladders.after_take, dispatch_uid="ladders")
        handed_over.connect(services.after_hand_over, dispatch_uid="calendar feeds")
        left.connect(services.after_leaving, dispatch_uid="plans of who left")
