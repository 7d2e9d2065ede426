from django.apps import AppConfig


class LooksConfig(AppConfig):
    name = "looks"
    default_auto_field = "django.db.models.BigAutoField"
