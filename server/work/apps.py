from django.apps import AppConfig


class WorkConfig(AppConfig):
    name = "work"
    default_auto_field = "django.db.models.BigAutoField"
