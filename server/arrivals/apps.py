from django.apps import AppConfig


class ArrivalsConfig(AppConfig):
    name = "arrivals"
    default_auto_field = "django.db.models.BigAutoField"
