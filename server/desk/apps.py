from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "desk"
    default_auto_field = "django.db.models.BigAutoField"
