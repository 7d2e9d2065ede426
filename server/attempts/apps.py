from django.apps import AppConfig


class AttemptsConfig(AppConfig):
    name = "attempts"
    default_auto_field = "django.db.models.BigAutoField"
