from django.apps import AppConfig


class ChecksConfig(AppConfig):
    name = "checks"
    default_auto_field = "django.db.models.BigAutoField"
