from django.apps import AppConfig


class ReviewsConfig(AppConfig):
    name = "apps.reviews"
