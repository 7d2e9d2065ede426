from django.apps import AppConfig


class RunsConfig(AppConfig):
    name = "runs"
    default_auto_field = "django.db.models.BigAutoField"
